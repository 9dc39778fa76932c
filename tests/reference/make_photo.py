"""A sampler sheet with lines of known widths, photographed by OpenCV, at the versions in requirements.txt, with the program in target/release:

    python tests/reference/make_photo.py

photo.jpg   onto a sheet of our own command, lines of known widths are drawn with numpy by coverage; the page is seen through OpenCV's camera
            (Brown's k1 and k2, and tangential terms that the reading does not know), with light that falls off, noise, cv2.bilateralFilter as a
            camera's removal of it, and JPEG
photo.json  the widths, mm, by effort
"""
import json
import pathlib
import subprocess
import tempfile

import cv2
import numpy as np

HERE = pathlib.Path(__file__).parent
PROGRAM = HERE.parent.parent / "target/release/eddymist"
WIDTHS = {0.0: 0.42, 0.25: 0.6, 0.5: 0.85, 0.75: 1.25, 1.0: 1.9}
with tempfile.TemporaryDirectory() as t:
    subprocess.run([PROGRAM, "sheet", "--paper", "a4", "--number", "7K2M9Q", "--dpi", "600", "--out", f"{t}/sheet.png"], check=True)
    page = cv2.imread(f"{t}/sheet.png", cv2.IMREAD_GRAYSCALE).astype(np.float32) / 255
    plan = json.loads(subprocess.run([PROGRAM, "sheet", "--paper", "a4", "--number", "7K2M9Q", "--json", "--out", f"{t}/s.png"], check=True, capture_output=True).stdout)
k = 600 / 25.4
rows = np.arange(page.shape[0], dtype=np.float32)
for cell in plan["cells"]:
    width = WIDTHS.get(cell.get("effort")) if cell["kind"] in ("effort", "pace") else None
    for s in cell["strokes"] if width else []:
        y, x0, x1 = s["from"][1] * k, int(s["from"][0] * k), int(s["to"][0] * k)
        half = 0.5 * width * k
        cover = np.clip(np.minimum(rows + 1, y + half) - np.maximum(rows, y - half), 0, 1)
        page[:, x0:x1] = np.minimum(page[:, x0:x1], 1 - cover[:, None])
    if cell["kind"] == "solid":
        (s,) = cell["strokes"]
        page[int((s["from"][1] - s["reach"]) * k) : int((s["from"][1] + s["reach"]) * k), int(s["from"][0] * k) : int(s["to"][0] * k)] = 0

# Linear light: paper at 0.62, ink at 0.03, the table at 0.09.
light = 0.03 + page * 0.59
w, h, over = 1944, 2592, 3
f = 2350.0
camera = np.array([[f, 0, w / 2], [0, f, h / 2], [0, 0, 1]])
bends = np.array([0.09, -0.12, 0.0008, -0.0006])
turn, away = np.array([0.09, -0.06, 0.02]), np.array([-104.0, -147.0, 292.0])
ys, xs = np.mgrid[0 : h * over, 0 : w * over].astype(np.float32)
seen = np.stack([((xs + 0.5) / over - 0.5).ravel(), ((ys + 0.5) / over - 0.5).ravel()], axis=-1)[:, None, :]
straight = cv2.undistortPoints(seen, camera, bends)[:, 0, :]
r, _ = cv2.Rodrigues(turn)
plane = np.linalg.inv(np.column_stack([r[:, 0], r[:, 1], away]))
mm = plane @ np.vstack([straight.T, np.ones(len(straight))])
mx, my = (mm[0] / mm[2] * k - 0.5).reshape(xs.shape).astype(np.float32), (mm[1] / mm[2] * k - 0.5).reshape(xs.shape).astype(np.float32)
# What lies beneath a third of a pixel, first, as the remap reads between four pixels only.
soft = cv2.GaussianBlur(light, (0, 0), 1.0)
photo = cv2.remap(soft, mx, my, cv2.INTER_LINEAR, borderMode=cv2.BORDER_CONSTANT, borderValue=0.09)
photo = cv2.resize(photo, (w, h), interpolation=cv2.INTER_AREA)
photo = cv2.GaussianBlur(photo, (0, 0), 0.7)
ys, xs = np.mgrid[0:h, 0:w]
photo *= 1 - 0.22 * xs / w - 0.12 * ((ys - h / 2) / h) ** 2
photo = np.clip(photo + np.random.default_rng(5).normal(0, 0.004, photo.shape) * np.sqrt(np.clip(photo, 0, 1)), 0, 1)
encoded = np.where(photo <= 0.0031308, 12.92 * photo, 1.055 * np.power(photo, 1 / 2.4) - 0.055)
eight = cv2.bilateralFilter((encoded * 255).round().astype(np.uint8), 5, 12, 1.5)
assert cv2.imwrite(str(HERE / "photo.jpg"), eight, [cv2.IMWRITE_JPEG_QUALITY, 88])
(HERE / "photo.json").write_text(json.dumps({str(e): v for e, v in WIDTHS.items()}) + "\n")
