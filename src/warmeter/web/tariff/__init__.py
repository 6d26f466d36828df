"""The tariff: rates by season, kind of day and hour."""
