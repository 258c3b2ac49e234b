"""Ovolo's core: a sheet of formulas goes in; values, parts, checks and problems come out."""
