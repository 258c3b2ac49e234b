"""Setting out: where the items of an array fall."""
