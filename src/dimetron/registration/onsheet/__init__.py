"""The views on a sheet in any arrangement, named by what they show.

``candidates`` boxes what may be a view, ``naming`` tells by the shapes which view each is and how
it is turned, ``views`` weighs that against the arrangement that standards have.
"""
