"""The demo: the props of the Lantern Hollow workshop, their drawings, and the truth behind them.

Shapes are code; drawings are made from the shapes by hidden-line removal and then drawn as a
pencil would. So what is true is known, and tests measure against it.
"""
