"""What a study yields: values, parts, checks, dims and problems."""
