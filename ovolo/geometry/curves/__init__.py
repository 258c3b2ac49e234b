"""Curves: drawn, joined, rounded off, measured."""
