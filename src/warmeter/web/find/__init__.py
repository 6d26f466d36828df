"""Find: parts, lines, revisions, methods and help of a home by words."""
