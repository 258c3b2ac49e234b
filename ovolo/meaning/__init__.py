"""What a sheet means before it runs: names, kinds and dimensions, and what depends on what."""
