"""Quantities: dimensions, units, kinds of values, reading what is typed and showing values."""
