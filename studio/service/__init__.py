"""Running it: health, metrics, logs, and the client's address behind a proxy."""
