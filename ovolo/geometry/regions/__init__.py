"""Regions: flat figures with exact outlines, put together, divided, lettered."""
