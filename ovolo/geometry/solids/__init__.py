"""Solids: made, put together, finished, measured, and what they truly are."""
