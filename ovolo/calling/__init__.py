"""Ovolo called from Python: `ovolo.open("stair.ovo")`."""
