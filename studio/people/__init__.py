"""The pages of people: signing up and in, one's account, who works on a project, what visitors see."""
