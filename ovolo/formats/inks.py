"""The inks of drawings on paper, by role."""

INKS = {"ink": "#23292B", "dim": "#23292B", "wrong": "#8C1D3F", "field": "#5C6568"}
