"""What a home will do: rooms, days, what they draw and what that costs."""
