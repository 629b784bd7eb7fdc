"""Tools of the Trace station: outlines drawn on the ink, their points, and solids made of them."""
