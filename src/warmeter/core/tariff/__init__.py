"""What an hour costs, and when a run is cheapest."""
