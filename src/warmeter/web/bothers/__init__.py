"""Something bothers me: from one nuisance and one log to a result, in a few inputs."""
