"""The device register and one device by itself."""
