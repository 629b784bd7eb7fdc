"""What of a picture is drawn and what is its ground.

``ground`` estimates the ground as a smooth field, ``cover`` what differs from it, ``told`` tells
lines from flat fills and from shade (``kind``), ``photo`` cuts an object from a busy ground,
``inks`` tells lines of different colours apart, ``said`` and ``touched`` are what a person said.
"""
