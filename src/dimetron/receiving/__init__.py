"""A receiving end to try against: a folder that is watched, and an answer to what is put there, as
the import of a game engine or of a printer would give it. Nothing of it is real but the checks.

What is handed over comes with an order (``NAME.order.json``: which file it is, and how large it is
meant to be, in mm), which is written last; the answer stands beside it as ``NAME.answer.json``. A
receiver is a module of ``kinds/``, registered by standing there.
"""
