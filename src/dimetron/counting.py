"""Numbers with the words for what they count."""


def counted(number: int, one: str, many: str) -> str:
    """A number with the word for one or for many."""
    return f"{number} {one if number == 1 else many}"
