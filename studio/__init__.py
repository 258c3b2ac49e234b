"""The web application: projects and studies of people, shown and edited in a browser."""
