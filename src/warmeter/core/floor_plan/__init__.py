"""The drawn plan: rectangles on storeys, and what follows from them."""
