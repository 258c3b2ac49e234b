"""Triangles: what is drawn, cut and handed over."""
