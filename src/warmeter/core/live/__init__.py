"""What is asked of a home's devices now, whether they obeyed, who must be told, and what has gone quiet."""
