"""The board: four tied panes in one OpenGL widget.

``layout`` and ``sight`` are plain values (where the panes lie, what they look at), ``canvas`` draws
them with ``render``, ``widget`` is the Qt part: events in, cameras out.
"""
