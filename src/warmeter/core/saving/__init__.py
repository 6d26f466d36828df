"""What not wasting saves, in energy and exact money, and when what prevents it has paid for itself."""
