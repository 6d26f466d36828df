"""Sun through windows: what comes in, what a blind keeps out, what that spares."""
