"""Three-valued truth over time: from reports, clock times, sun and marks; over arrays, and from instant to instant."""
