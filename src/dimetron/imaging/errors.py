"""What every reader of pictures raises."""


class PictureError(ValueError):
    """Not a picture that can be used; the message says what is wrong and what to do."""
