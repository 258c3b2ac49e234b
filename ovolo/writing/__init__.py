"""What helps a person to write lines: words with their pictures, lines ready to fill, new inputs."""
