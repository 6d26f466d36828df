"""A home worked out: envelope, losses, what its heaters give, its checks, its zones tried out."""
