"""Ratios against hand-written scripts."""
