"""Registration with nothing marked: from the drawings' ink alone.

``signature`` describes a drawing along its two sides, ``ways`` lists how a drawing may lie against
the world, ``coherence`` tests whether outlines can be of one object, ``search`` weighs all drawings
together, ``proposal`` says the outcome with its confidence, ``features`` finds points that match.
"""
