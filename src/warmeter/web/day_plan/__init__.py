"""The plan of the day as a page: lanes of what draws when, wants, what holds them."""
