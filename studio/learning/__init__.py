"""The first hour: exercises in the workspace, and how far a person has come."""
