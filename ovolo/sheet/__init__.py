"""The sheet as text: reading it into statements, and edits that keep everything else as it was."""
