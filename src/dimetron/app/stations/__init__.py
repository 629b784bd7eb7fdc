"""The stations of the route: each stands in a module of this folder, and is known by standing
there. ``order`` puts them in working order."""
