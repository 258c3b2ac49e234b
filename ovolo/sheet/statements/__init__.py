"""The statements of the language: one module each, with all that is said of it."""
