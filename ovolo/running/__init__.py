"""Running a checked program: values line by line, many at once where that is the same."""
