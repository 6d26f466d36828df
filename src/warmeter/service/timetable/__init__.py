"""Timetables compared, handed to devices and files, changed by hand, explained."""
