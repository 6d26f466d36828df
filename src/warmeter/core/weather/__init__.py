"""Sun and outdoor temperature: where the sun stands, and what tomorrow may bring."""
