"""Photos of parts and steps."""
