"""What matters in a home, from its document, logs, fits and prices."""
