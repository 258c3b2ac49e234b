"""Cutting pieces from stock."""
