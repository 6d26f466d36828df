"""The strip: lanes over one time axis, described as data and drawn in one way."""
