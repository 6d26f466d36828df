"""The plan of the day made from what a home wants and what its logs say."""
