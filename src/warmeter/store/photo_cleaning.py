"""A photo cleaned as it comes in: made smaller, turned upright, rid of place, device and every other tag."""

from dataclasses import dataclass
from io import BytesIO

from PIL import Image, ImageOps, UnidentifiedImageError

from warmeter.core.errors import ReadingError

FORMATS = ("JPEG", "PNG", "WEBP")
LONGEST_PX, MOST_PIXELS, QUALITY = 1600, 80_000_000, 82


@dataclass(frozen=True, slots=True)
class CleanPhoto:
    """A JPEG without tags, and its size [px]."""

    data: bytes
    width: int
    height: int


def clean_photo(data: bytes) -> CleanPhoto:
    """Return a photo at most 1600 px long, upright, with nothing in it but its picture.

    The picture is drawn anew: what stood beside it (where and when it was taken, by which device, a thumbnail) is not
    carried over.

    Raises
    ------
    ReadingError
        If it is no JPEG, PNG or WebP, is damaged, or holds too many pixels.
    """
    try:
        with Image.open(BytesIO(data), formats=FORMATS) as found:
            if found.width * found.height > MOST_PIXELS:
                raise ReadingError(
                    f"this picture has over {MOST_PIXELS // 1_000_000} million pixels; send a smaller one"
                )
            found.draft("RGB", (2 * LONGEST_PX, 2 * LONGEST_PX))
            upright = ImageOps.exif_transpose(found)
            upright.thumbnail((LONGEST_PX, LONGEST_PX))
            plain = Image.new("RGB", upright.size, "white")
            rgba = upright.convert("RGBA")
            plain.paste(rgba, mask=rgba.getchannel("A"))
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, Image.DecompressionBombError) as error:
        raise ReadingError("this file is no picture that can be read; take a JPEG, PNG or WebP") from error
    made = BytesIO()
    plain.save(made, "JPEG", quality=QUALITY, optimize=True)
    return CleanPhoto(made.getvalue(), plain.width, plain.height)
