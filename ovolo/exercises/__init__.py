"""The first hour: exercises that look at what a study yields, not at how it is written."""
