"""The plan as a picture: the one component that draws rooms, wherever they are drawn."""
