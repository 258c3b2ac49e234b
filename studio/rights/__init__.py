"""Who may do what with a project: its owner, those who work on it by their roles, visitors by a link."""
