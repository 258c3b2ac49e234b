"""Open file formats, a module each."""
