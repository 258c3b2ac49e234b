"""The benches: how a study would be made, on simulated machines."""
