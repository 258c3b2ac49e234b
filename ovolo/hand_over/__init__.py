"""Handing a study over: what leaves is chosen, named by a rule, told in a manifest, and made again to the byte."""
