"""Surfaces over two parameters."""
