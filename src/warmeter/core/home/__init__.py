"""What a home is: place, rooms, heaters, zones, levels, timetables, tariff and machines."""
