"""Photos by request: checked, made anew, pinned, squared up; whatever is no photo is refused and leaves nothing behind."""

import io
import zipfile
import zlib

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse
from PIL import Image

from idlebench.core.refusal import BadInput
from idlebench.web.photos import services
from idlebench.web.photos.pictures import take_picture
from idlebench.web.records.models import Photo, Underlay, folder

pytestmark = pytest.mark.django_db


def picture(width=640, height=480, kind="JPEG", colour=(20, 90, 60), **more) -> bytes:
    out = io.BytesIO()
    Image.new("RGBA" if kind == "PNG" else "RGB", (width, height), colour).save(out, kind, **more)
    return out.getvalue()


def located(turned: int = 6) -> bytes:
    """A photo taken on its side, with the place it was taken at."""
    exif = Image.Exif()
    exif[0x0112] = turned
    exif[0x010F] = "a camera"
    exif.get_ifd(0x8825)[1] = "N"
    exif.get_ifd(0x8825)[2] = (58.0, 12.0, 30.0)
    return picture(exif=exif)


def body(response) -> bytes:
    """What a picture's address sends, read to its end."""
    assert response.headers["Content-Type"] == "image/jpeg"
    return b"".join(response.streaming_content)


def post(client, unit, *files, **typed):
    data = {"photo": [SimpleUploadedFile(f"p{i}.jpg", f) for i, f in enumerate(files)], "to": "unit", **typed}
    return client.post(reverse("photos", args=[unit.pk]), data)


def test_a_photo_is_turned_upright_and_loses_its_location(client, surveyed):
    response = post(client, surveyed.unit, located(), words="as found")
    assert response.status_code == 302
    assert "without its location" in client.get(response.url).content.decode()
    photo = Photo.objects.get()
    assert (photo.width, photo.height) == (480, 640), "on its side, so turned"
    with Image.open(photo.path) as kept, Image.open(photo.small) as small:
        assert not kept.getexif() and kept.format == "JPEG" and max(small.size) <= 420
    assert body(client.get(reverse("picture", args=[photo.pk]))) == photo.path.read_bytes()


def test_what_hangs_behind_a_picture_is_not_kept():
    behind = io.BytesIO()
    with zipfile.ZipFile(behind, "w") as z:
        z.writestr("run.me", "rm -rf /")
    found = take_picture(picture() + behind.getvalue())
    assert "bytes behind the picture" in found.left_out[0] and b"run.me" not in found.data + found.small


def test_script_in_a_comment_does_not_survive():
    found = take_picture(picture(comment=b"<script>alert(1)</script>"))
    assert b"<script>" not in found.data


def bomb() -> bytes:
    """A PNG whose header says 20 000 × 10 000."""
    data = bytearray(picture(8, 8, "PNG"))
    data[16:24] = (20_000).to_bytes(4) + (10_000).to_bytes(4)
    data[29:33] = zlib.crc32(data[12:29]).to_bytes(4)
    return bytes(data)


@pytest.mark.parametrize(
    ("data", "said"),
    [(b"", "it is empty"), (b"%PDF-1.7 hello", "a PDF"), (b"<svg onload=alert(1)>", "an SVG drawing"), (b"PK\x03\x04" + bytes(60), "a zip archive"),
     (b"\x7fELF" + bytes(60), "a program"), (b"just words", "a photo as JPEG, PNG, WEBP"), (picture()[:400], "read to its end"), (bomb(), "60 megapixels"),
     (picture(4, 4), "a photo"), (b"\xff\xd8" + bytes(11_000_000), "at most 10 MB"), (b"GIF89a" + bytes(60), "a GIF")],
    ids=["empty", "pdf", "svg", "zip", "program", "words", "cut short", "200 megapixels", "speck", "11 MB", "gif"],
)  # fmt: skip
def test_what_is_no_photo_is_refused_and_leaves_nothing(client, surveyed, data, said):
    before = set(folder().iterdir())
    if data:
        response = post(client, surveyed.unit, data, words="scorch beside C1")
        html = response.content.decode()
        assert response.status_code == 422 and said in html and "scorch beside C1" in html
    with pytest.raises(BadInput, match=said):
        take_picture(data)
    assert not Photo.objects.exists() and set(folder().iterdir()) == before


def test_one_bad_file_among_good_ones_is_named_and_the_good_stay(client, surveyed):
    response = post(client, surveyed.unit, picture(), b"words")
    assert response.status_code == 422 and "p1.jpg" in response.content.decode()


def test_pinned_to_a_part_a_step_and_a_spot(client, surveyed):
    from idlebench.web.intake import dismantling

    part, step = surveyed.parts.get(ref="C1"), dismantling.take_off(surveyed.unit, "lid: 4 screws M3x8")
    post(client, surveyed.unit, picture(), to=f"part:{part.pk}")
    post(client, surveyed.unit, picture(), to=f"step:{step.pk}")
    post(client, surveyed.unit, picture(), to=f"board:{surveyed.pk}", spot="30,40")
    assert [p.pinned_to for p in Photo.objects.all()] == ["PS-1 C1", "step: lid: 4 screws M3x8", "PS-1 at 30, 40 mm"]
    log = client.get(reverse("dismantling", args=[surveyed.unit_id])).content.decode()
    back = client.get(reverse("dismantling", args=[surveyed.unit_id]), {"way": "back"}).content.decode()
    small = reverse("picture_small", args=[Photo.objects.all()[1].pk])
    assert small in log and back.count(small) == 2, "at its step; on the way back large, and at its step"
    survey = client.get(reverse("survey", args=[surveyed.pk]), {"part": "C1"}).content.decode()
    assert 'class="pin"' in survey and reverse("picture_small", args=[Photo.objects.first().pk]) in survey


@pytest.mark.parametrize(("to", "spot"), [("part:999", ""), ("board:x", ""), ("moon", ""), ("board:{}", "999,10"), ("board:{}", "5")])  # fmt: skip
def test_a_pin_to_nothing_is_refused(client, surveyed, to, spot):
    response = post(client, surveyed.unit, picture(), to=to.format(surveyed.pk), spot=spot)
    assert response.status_code == 422 and not Photo.objects.exists()


def test_put_away_and_brought_back(client, surveyed):
    post(client, surveyed.unit, picture(), words="lid off")
    photo = Photo.objects.get()
    client.post(reverse("photo_remove", args=[photo.pk]))
    assert "Bring it back" in client.get(reverse("photos", args=[surveyed.unit_id])).content.decode()
    client.post(reverse("photo_remove", args=[photo.pk]))
    photo.refresh_from_db()
    assert photo.removed is None and photo.path.exists()
    client.post(reverse("photo", args=[photo.pk]), {"to": f"board:{surveyed.pk}", "spot": "10,10", "words": "hub"})
    photo.refresh_from_db()
    assert (photo.words, photo.x, photo.board) == ("hub", 10.0, surveyed)


@pytest.fixture
def photo(surveyed):
    return services.take_photo(surveyed.unit, picture(1200, 800), "b.jpg", services.Pin(board=surveyed))[0]


SQUARE = {"pixels": "100,80 1100,60 1150,700 60,720", "millimetres": "0,0 120,0 120,80 0,80"}


def test_a_photo_is_squared_up_under_its_board(client, surveyed, photo):
    page = reverse("square", args=[surveyed.pk])
    assert "120,0 120,80" in client.get(page).content.decode()
    assert client.post(page, {"photo": photo.pk, "side": "parts", **SQUARE}).status_code == 302
    flat = Image.open(io.BytesIO(body(client.get(reverse("underlay", args=[surveyed.pk])))))
    assert flat.size == (960, 640), "8 pixels to the mm"
    assert "<image" in client.get(reverse("survey", args=[surveyed.pk])).content.decode()
    assert client.get(reverse("underlay", args=[surveyed.pk]), {"side": "solder"}).status_code == 404
    client.post(reverse("underlay_remove", args=[surveyed.pk]), {"side": "parts"})
    assert not Underlay.objects.exists() and Photo.objects.exists()


@pytest.mark.parametrize(
    ("change", "said"),
    [({"pixels": "100,80 1150,700 1100,60 60,720"}, "lines that cross"), ({"pixels": "100,80 600,80 1100,80 60,720"}, "three points in a line"), ({"pixels": "1,1 2,2"}, "four points"),
     ({"pixels": "100,80 9999,60 1150,700 60,720"}, "a point on the photo"), ({"millimetres": "0,0 120,0 120,800 0,80"}, "a point on the board"),
     ({"pixels": "a,b c,d e,f g,h"}, "a number"), ({"side": "under"}, "parts, solder"), ({"pixels": "nan,0 1,1 2,2 3,3"}, "")],
)  # fmt: skip
def test_four_points_that_cannot_be_stay_in_their_fields(client, surveyed, photo, change, said):
    response = client.post(reverse("square", args=[surveyed.pk]), {"photo": photo.pk, "side": "parts", **SQUARE, **change})  # fmt: skip
    html = response.content.decode()
    assert response.status_code == 422 and said in html and not Underlay.objects.exists()
    if "pixels" in change:
        assert change["pixels"] in html


def test_a_photo_of_another_unit_does_not_go_under_this_board(surveyed, photo):
    from idlebench.web.records.models import Unit

    other = Unit.objects.create(job=surveyed.unit.job, name="B")
    with pytest.raises(BadInput, match="a photo of unit A"):
        services.lay_under(surveyed, "parts", services.take_photo(other, picture(), "x")[0], [(0, 0)] * 4, [(0, 0)] * 4)
