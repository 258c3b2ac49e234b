"""How a design would be made: machines that are simulated with real computation."""
