"""Pictures drawn for the demo: sea, sky, and something in between, the same each time."""

from io import BytesIO
from random import Random

from PIL import Image, ImageDraw

SIZE = (1200, 600)
LIGHT = {
    "dawn": ((244, 196, 170), (251, 233, 209), (118, 141, 158), (62, 88, 110)),
    "noon": ((142, 190, 214), (220, 235, 236), (92, 145, 165), (48, 92, 116)),
    "dusk": ((92, 84, 128), (238, 168, 128), (84, 92, 122), (40, 48, 76)),
    "night": ((14, 20, 44), (38, 52, 88), (20, 30, 56), (8, 12, 30)),
    "grey": ((168, 178, 182), (208, 213, 213), (126, 142, 148), (84, 102, 110)),
}


def draw(seed: str, light: str) -> bytes:
    """A JPEG of 1200 x 600: `light` is one of LIGHT, `seed` decides the boats."""
    chance = Random(seed)
    sky_high, sky_low, sea_far, sea_near = LIGHT[light]
    picture = Image.new("RGB", SIZE)
    pen = ImageDraw.Draw(picture)
    horizon = chance.randint(270, 330)
    _gradient(pen, 0, horizon, sky_high, sky_low)
    _gradient(pen, horizon, SIZE[1], sea_far, sea_near)
    if light in ("dawn", "dusk", "night"):
        x, y, r = chance.randint(150, 1050), horizon - chance.randint(40, 160), chance.randint(22, 44)
        pen.ellipse((x - r, y - r, x + r, y + r), fill=(252, 244, 220))
    _land(pen, chance, horizon, _mix(sea_far, sky_low, 0.35))
    for _ in range(chance.randint(3, 6)):
        _boat(pen, chance, horizon, night=light == "night")
    for _ in range(160):
        y = chance.randint(horizon + 6, SIZE[1])
        x, length = chance.randint(0, SIZE[0]), chance.randint(10, 60) * (y - horizon) // 200 + 6
        pen.line((x, y, x + length, y), fill=_mix(sea_near, sky_low, 0.25), width=1)
    out = BytesIO()
    picture.save(out, "JPEG", quality=82)
    return out.getvalue()


def _gradient(pen: ImageDraw.ImageDraw, top: int, bottom: int, start: tuple, end: tuple) -> None:
    for y in range(top, bottom):
        pen.line((0, y, SIZE[0], y), fill=_mix(start, end, (y - top) / max(1, bottom - top)))


def _land(pen: ImageDraw.ImageDraw, chance: Random, horizon: int, colour: tuple) -> None:
    x, y = 0, horizon - chance.randint(8, 40)
    outline = [(0, horizon)]
    while x < SIZE[0]:
        outline.append((x, y))
        x += chance.randint(60, 140)
        y = min(horizon, max(horizon - 70, y + chance.randint(-26, 30)))
    pen.polygon([*outline, (SIZE[0], horizon)], fill=colour)


def _boat(pen: ImageDraw.ImageDraw, chance: Random, horizon: int, *, night: bool) -> None:
    y = chance.randint(horizon + 12, SIZE[1] - 60)
    size = 14 + (y - horizon) // 4
    x = chance.randint(60, SIZE[0] - 60)
    hull = chance.choice([(140, 47, 95), (30, 116, 102), (185, 132, 26), (43, 102, 173), (60, 52, 60)])
    sail = (250, 240, 222) if not night else (120, 116, 130)
    pen.polygon(
        [(x - size, y), (x + size, y), (x + size * 0.7, y + size * 0.45), (x - size * 0.7, y + size * 0.45)], fill=hull
    )
    pen.line((x, y, x, y - size * 2.2), fill=(70, 60, 54), width=2)
    pen.polygon([(x + 2, y - size * 2.1), (x + 2, y - 4), (x + size * 1.1, y - 4)], fill=sail)
    pen.polygon([(x - 2, y - size * 1.7), (x - 2, y - 4), (x - size * 0.8, y - 4)], fill=sail)
    if night:
        pen.ellipse((x - 4, y - size * 2.2 - 8, x + 4, y - size * 2.2), fill=(255, 214, 130))


def _mix(a: tuple, b: tuple, share: float) -> tuple[int, ...]:
    return tuple(round(p + (q - p) * share) for p, q in zip(a, b, strict=True))
