"""Flat drawings of a study: views, line weights, dimensions, sheets of paper with a title block."""
