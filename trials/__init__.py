"""Long trials by chance: ``fuzz`` damages files, ``rough`` plays with the window.

Both are seeded, stop by themselves, and say how what they found can be had again.
"""
