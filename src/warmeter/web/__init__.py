"""The interface: pages, the strip, the working. It parses, calls one use case, shows one view."""
