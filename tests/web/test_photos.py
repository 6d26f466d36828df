"""Photos of parts and of steps: cleaned of where they were taken, bounded, kept, removed from sight and brought back."""

from io import BytesIO

from PIL import Image

from tests.drawn import drawn_home
from tests.web.test_pages import Case
from warmeter.core.edits.checklist_commands import BeginChecklist
from warmeter.core.errors import ReadingError
from warmeter.core.home.checklist_steps import STEPS
from warmeter.core.home.document import Home
from warmeter.service.photos.taking import PHOTO_BYTES
from warmeter.store import photos
from warmeter.store.photo_cleaning import clean_photo

_GPS, _ORIENTATION, _MAKE, _TURNED_LEFT = 0x8825, 0x0112, 0x010F, 6


def picture(width: int = 400, height: int = 300, kind: str = "JPEG", *, tagged: bool = True) -> bytes:
    """Return a picture, red at its left edge, with a place and an orientation in its tags."""
    image = Image.new("RGB", (width, height), "white")
    image.paste("red", (0, 0, width // 4, height))
    exif = Image.Exif()
    if tagged:
        exif[_ORIENTATION] = _TURNED_LEFT
        exif[_MAKE] = "A maker"
        exif[_GPS] = {1: "N", 2: (52.0, 30.0, 0.0), 3: "E", 4: (13.0, 24.0, 0.0)}
    made = BytesIO()
    image.save(made, kind, exif=exif)
    return made.getvalue()


class Cleaning(Case):
    def test_place_and_device_are_gone_and_the_picture_stands_upright(self) -> None:
        given = picture()
        self.assertTrue(Image.open(BytesIO(given)).getexif().get_ifd(_GPS))
        clean = clean_photo(given)
        found = Image.open(BytesIO(clean.data))
        self.assertEqual(dict(found.getexif()), {})
        self.assertNotIn(b"A maker", clean.data)
        # Turned a quarter to the right: what was at the left is at the top.
        self.assertEqual(found.size, (300, 400))
        self.assertLess(found.getpixel((150, 20))[1], 90)  # type: ignore[index]
        self.assertGreater(found.getpixel((150, 380))[1], 200)  # type: ignore[index]

    def test_large_ones_are_made_smaller_and_every_kind_becomes_a_jpeg(self) -> None:
        for kind in ("JPEG", "PNG", "WEBP"):
            clean = clean_photo(picture(4000, 2000, kind, tagged=False))
            self.assertEqual((clean.width, clean.height), (1600, 800))
            self.assertEqual(Image.open(BytesIO(clean.data)).format, "JPEG")

    def test_what_is_no_picture_is_refused(self) -> None:
        for data in (b"", b"no picture", picture()[:500], b"GIF89a" + bytes(40), b"<svg xmlns='a'/>"):
            with self.assertRaisesRegex(ReadingError, "take a JPEG, PNG or WebP"):
                clean_photo(data)


class PhotosOfAHome(Case):
    @classmethod
    def home(cls) -> Home:
        """Return two rooms with a checklist about a sensor."""
        return BeginChecklist(kind="device_birth", about_id="air-den").edit(drawn_home(id="home1")).home

    def add(self, about: str, step: str = "", data: bytes | None = None) -> int:
        answer = self.client.post(
            "/homes/home1/photos",
            data={"about": about, "step": step, "back": "/homes/home1/devices?at=air-den"},
            files={"photo": ("IMG.jpg", picture() if data is None else data, "image/jpeg")},
            follow_redirects=False,
        )
        return int(answer.status_code)

    def page(self) -> str:
        return str(self.client.get("/homes/home1/devices?at=air-den").text)

    def test_added_shown_removed_and_brought_back(self) -> None:
        self.assertEqual(self.add("air-den"), 303)
        checklist = self.app.homes.load("home1")[0].checklists[0]
        step = STEPS["device_birth"][0].key
        base = self.page().split('data-revision="')[1].split('"')[0]
        done = {"base": base, "checklist_id": checklist.id, "step": step, "by": "J. Hand", "on": "2026-01-20"}
        self.client.post("/homes/home1/devices/checklist-step?at=air-den", data=done)
        self.assertEqual(self.add(checklist.id, step), 303)
        lines = self.app.photos.lines("home1")
        self.assertEqual([(p.about_id, p.step) for p in lines], [("air-den", ""), (checklist.id, step)])
        for line in lines:
            self.assertIn(f"/homes/home1/photos/{line.id}", self.page())
            shown = self.client.get(f"/homes/home1/photos/{line.id}")
            self.assertEqual(shown.headers["content-type"], "image/jpeg")
            self.assertEqual(Image.open(BytesIO(shown.content)).size, (line.width, line.height))
        url = f"/homes/home1/photos/{lines[0].id}"
        back = {"back": "/homes/home1/devices?at=air-den"}
        self.client.post(url, data={"act": "remove", **back})
        self.assertNotIn(f'src="{url}"', self.page())
        self.assertIn("bring a removed photo back", self.page())
        self.client.post(url, data={"act": "back", **back})
        self.assertIn(f'src="{url}"', self.page())

    def test_bad_ones_say_why_and_nothing_is_kept(self) -> None:
        self.assertEqual(self.add("gone"), 422)
        self.assertEqual(self.add("air-den", "a step"), 422)
        self.assertEqual(self.add("air-den", data=b"no picture"), 422)
        self.assertEqual(self.add("air-den", data=bytes(PHOTO_BYTES + 1)), 422)
        self.assertEqual(self.app.photos.lines("home1"), [])
        self.assertEqual(self.client.get("/homes/home1/photos/77").status_code, 422)

    def test_another_homes_photo_is_not_shown_and_another_site_is_not_gone_back_to(self) -> None:
        self.add("air-den")
        number = self.app.photos.lines("home1")[0].id
        self.assertIn(self.client.get(f"/homes/other/photos/{number}").status_code, (404, 422))
        answer = self.client.post(
            f"/homes/home1/photos/{number}",
            data={"act": "remove", "back": "//elsewhere.example/homes/home1/"},
            follow_redirects=False,
        )
        self.assertEqual(answer.headers["location"], "/homes/home1/survey")

    def test_as_many_as_are_kept(self) -> None:
        kept = photos.MOST_PHOTOS
        photos.MOST_PHOTOS = 1
        try:
            self.assertEqual(self.add("air-den"), 303)
            self.assertEqual(self.add("air-den"), 422)
        finally:
            photos.MOST_PHOTOS = kept
        self.assertEqual(len(self.app.photos.lines("home1")), 1)

    def test_they_go_with_the_archive_and_are_cleaned_again_as_they_come(self) -> None:
        self.add("air-den")
        data = self.client.get("/homes/home1/archive.zip").content
        answer = self.client.post(
            "/homes/bring-in", files={"file": ("home.zip", data, "application/zip")}, follow_redirects=True
        )
        self.assertEqual(answer.status_code, 200)
        other = next(line.id for line in self.app.homes.lines() if line.id != "home1")
        self.assertEqual([(p.about_id, p.width) for p in self.app.photos.lines(other)], [("air-den", 300)])
