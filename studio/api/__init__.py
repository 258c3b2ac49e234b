"""Studies over HTTP, for programs: JSON, with tokens; described by OpenAPI."""
