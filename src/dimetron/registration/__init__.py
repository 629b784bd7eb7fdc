"""Registration: sightings, known lengths and fixed axes in, placements of drawings out.

``problem`` holds the values that go in, ``solve`` finds the poses of all drawings and the landmarks
in space by one least-squares problem, ``start`` finds where to begin, ``suspects`` ranks what does
not agree, ``words`` says what cannot be known. All of it is pure.
"""
