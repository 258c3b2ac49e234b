"""Several people at one study: who is there, changes of different lines merged, remarks on lines."""
