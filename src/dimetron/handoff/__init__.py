"""What leaves a project: meshes, the kit, a report, prints, pictures, a turntable.

Each is a ``Way``: a module of ``ways/``, registered by standing there. It says what can be chosen
(a dataclass of parameters, as operations have) and makes files of a project; window and memory
follow from it.
"""
