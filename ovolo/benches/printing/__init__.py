"""Printing: layers of lines laid upon each other, as a simulated printer makes them."""
