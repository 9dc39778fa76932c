"""Lines of known widths beside a card, photographed by OpenCV, at the versions in requirements.txt:

    python tests/reference/make_card_photo.py

card_photo.jpg   lines drawn with numpy by coverage at their angles; a card of ISO/IEC 7810 ID-1 (its figures from memory: 85.60 × 53.98 mm, corners of
                 3.18 mm) with a lettering by cv2.putText and a fade of its own; the page is seen through OpenCV's camera (Brown's k1 and k2, and
                 tangential terms), with light that falls off, noise, cv2.bilateralFilter as a camera's removal of it, and JPEG
card_photo.json  the widths, mm, from the top
"""
import json
import pathlib

import cv2
import numpy as np

HERE = pathlib.Path(__file__).parent
WIDTHS = [0.7, 0.5, 1.0, 1.6]
PAGE = (150.0, 120.0)
k = 30
h, w = int(PAGE[1] * k), int(PAGE[0] * k)
ys, xs = np.mgrid[0:h, 0:w].astype(np.float32)
u, v = (xs + 0.5) / k, (ys + 0.5) / k
light = np.full((h, w), 0.62, np.float32)
for i, width in enumerate(WIDTHS):
    angle, y = np.radians([1.0, -0.6, 0.3, -1.2][i]), 14.0 + 8.0 * i
    along, across = (u - 75) * np.cos(angle) + (v - y) * np.sin(angle), (v - y) * np.cos(angle) - (u - 75) * np.sin(angle)
    cover = np.clip((width / 2 - np.abs(across)) * k + 0.5, 0, 1) * np.clip((50 - np.abs(along)) * k + 0.5, 0, 1)
    light = light * (1 - cover) + 0.03 * cover
# The card, turned, with its shadow beneath.
turn, cx, cy = np.radians(-7.0), 78.0, 82.0


def inside(dx, dy):
    x, y = u - cx - dx, v - cy - dy
    p, q = x * np.cos(turn) + y * np.sin(turn), y * np.cos(turn) - x * np.sin(turn)
    a, b = np.abs(p) - 42.8 + 3.18, np.abs(q) - 26.99 + 3.18
    return p, q, 3.18 - np.hypot(np.maximum(a, 0), np.maximum(b, 0)) - np.minimum(np.maximum(a, b), 0)


_, _, shade = inside(-0.5, 0.7)
light *= 1 - 0.3 / (1 + np.exp(-np.clip(shade, -9, 9) / 0.2))
p, q, within = inside(0, 0)
face = 0.2 + 0.1 * p / 42.8
text = np.zeros((h, w), np.uint8)
cv2.putText(text, "EDDYMIST 0417", (int(45 * k), int(88 * k)), cv2.FONT_HERSHEY_DUPLEX, 6.0, 255, 9, cv2.LINE_AA)
face = face * (1 - text / 255) + 0.5 * text / 255
cover = np.clip(within * k + 0.5, 0, 1)
light = light * (1 - cover) + face * cover

pw, ph, over = 2592, 1944, 3
f = 2100.0
camera = np.array([[f, 0, pw / 2], [0, f, ph / 2], [0, 0, 1]])
bends = np.array([0.07, -0.1, 0.0006, -0.0005])
tilt, away = np.array([0.12, -0.08, 0.03]), np.array([-74.0, -60.0, 134.0])
py, px = np.mgrid[0 : ph * over, 0 : pw * over].astype(np.float32)
seen = np.stack([((px + 0.5) / over - 0.5).ravel(), ((py + 0.5) / over - 0.5).ravel()], axis=-1)[:, None, :]
straight = cv2.undistortPoints(seen, camera, bends)[:, 0, :]
r, _ = cv2.Rodrigues(tilt)
mm = np.linalg.inv(np.column_stack([r[:, 0], r[:, 1], away])) @ np.vstack([straight.T, np.ones(len(straight))])
mx, my = (mm[0] / mm[2] * k - 0.5).reshape(px.shape).astype(np.float32), (mm[1] / mm[2] * k - 0.5).reshape(px.shape).astype(np.float32)
photo = cv2.remap(light, mx, my, cv2.INTER_LINEAR, borderMode=cv2.BORDER_CONSTANT, borderValue=0.09)
photo = cv2.GaussianBlur(cv2.resize(photo, (pw, ph), interpolation=cv2.INTER_AREA), (0, 0), 0.8)
py, px = np.mgrid[0:ph, 0:pw]
photo *= 1 - 0.2 * px / pw - 0.1 * ((py - ph / 2) / ph) ** 2
photo = np.clip(photo + np.random.default_rng(5).normal(0, 0.004, photo.shape) * np.sqrt(np.clip(photo, 0, 1)), 0, 1)
encoded = np.where(photo <= 0.0031308, 12.92 * photo, 1.055 * np.power(photo, 1 / 2.4) - 0.055)
eight = cv2.bilateralFilter((encoded * 255).round().astype(np.uint8), 5, 12, 1.5)
assert cv2.imwrite(str(HERE / "card_photo.jpg"), eight, [cv2.IMWRITE_JPEG_QUALITY, 88])
(HERE / "card_photo.json").write_text(json.dumps(WIDTHS) + "\n")
