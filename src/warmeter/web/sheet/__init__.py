"""The sheet: settings to type, rounded to each device's own steps, with the reason."""
