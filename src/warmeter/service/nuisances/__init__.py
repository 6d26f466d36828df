"""From one nuisance and one log to a result: parts added, the log imported, what comes of it."""
