"""The actions of the application and the palette that finds them."""
