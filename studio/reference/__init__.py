"""The reference: every word, line, operator and unit, found by name or by need, each with an example to try."""
