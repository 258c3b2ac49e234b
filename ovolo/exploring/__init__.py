"""Trying other values of the inputs."""
