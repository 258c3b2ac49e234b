"""Evaluation in worker processes, with limits of time and memory."""
