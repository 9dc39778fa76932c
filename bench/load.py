"""Fifty members at work while three deliveries of 500 drawings come in and are weighed, on one running program:

    bin/start &  cargo build --release -p eddymist-bench
    python3 bench/load.py target/release/eddymist-bench http://127.0.0.1:8380 [members 50] [drawings 500]

Each member signs in once and then works: looks at the desk, the rack, a brush, a delivery, a drawing, the team; keeps a draft and a trial
page; rests a second or two between. Printed: how long they waited, what went wrong, and when the deliveries were weighed.
"""
import collections
import http.cookiejar
import json
import os
import random
import subprocess
import sys
import tempfile
import threading
import time
import urllib.error
import urllib.request
import uuid

program, base = sys.argv[1], sys.argv[2]
members, count = int(sys.argv[3]) if len(sys.argv) > 3 else 50, int(sys.argv[4]) if len(sys.argv) > 4 else 500
took, wrong, done = collections.defaultdict(list), collections.Counter(), threading.Event()


class Browser:
    def __init__(self):
        self.opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(http.cookiejar.CookieJar()))

    def ask(self, path, body=None, verb=None, what=None, kind="application/json"):
        data = json.dumps(body).encode() if isinstance(body, (dict, list)) else body
        request = urllib.request.Request(base + path, data, {"content-type": kind} if data else {}, method=verb)
        start = time.perf_counter()
        try:
            answer = self.opener.open(request, timeout=60).read()
        except (urllib.error.URLError, TimeoutError) as e:
            wrong[f"{what or path}: {getattr(e, 'code', e)}"] += 1
            return None
        if what:
            took[what].append(time.perf_counter() - start)
        return json.loads(answer) if answer[:1] in (b"{", b"[") else answer


def signed_in(email):
    b = Browser()
    while b.ask("/api/v1/session", {"email": email, "password": "last tram home"}, what="sign in") is None:
        time.sleep(1)
    return b


def member(k, url, deliveries):
    b = signed_in(["ilse", "dov", "wanda"][k % 3] + "@nighttram.example")
    r = random.Random(k)
    brushes = b.ask(f"{url}/brushes")
    brush = brushes[k % len(brushes)]
    trial = None
    if k % 3 != 2:
        samples = [v for i in range(200) for v in (i * 8.0, 5 + i * 0.1, 12.0, 0.5, None, None)]
        stroke = {"samples": samples, "brush_id": brush["id"], "version": 1, "role": "contour", "colour": "#112233"}
        page = {"width_px": 320, "height_px": 200, "px_per_mm": 8, "strokes": [stroke]}
        trial = b.ask(f"{url}/trials", {"name": f"page {k}", "page": page})
    revision = 1
    while not done.is_set():
        what = r.choice(["desk", "rack", "brush", "delivery", "drawing", "team", "draft", "trial"])
        if what == "desk":
            b.ask(f"{url}/desk", what=what)
        elif what == "rack":
            b.ask(f"{url}/brushes", what=what)
        elif what == "brush":
            b.ask(f"{url}/brushes/{brush['id']}", what=what)
        elif what == "delivery":
            b.ask(f"{url}/deliveries/{r.choice(deliveries)}", what=what)
        elif what == "drawing":
            seen = b.ask(f"{url}/deliveries/{deliveries[-1]}")
            if seen and seen["drawings"]:
                b.ask(f"{url}/drawings/{r.choice(seen['drawings'])['id']}", what=what)
        elif what == "team":
            b.ask(f"{url}/team", what=what)
        elif what == "draft" and trial:
            b.ask(f"{url}/brushes/{brush['id']}/draft", {"brush": brush["brush"], "from_version": brush["current_version"]}, "PUT", what="keep a draft")
        elif what == "trial" and trial:
            kept = b.ask(f"{url}/trials/{trial['id']}", {"page": page, "from_revision": revision}, "PUT", what="keep a trial page")
            revision = kept["revision"] if kept else revision
        time.sleep(r.uniform(1.0, 2.0))


def deliver(b, url, delivery, folder, names):
    for i in range(0, len(names), 6):
        border, body = uuid.uuid4().hex, b""
        for name in names[i : i + 6]:
            head = f'--{border}\r\ncontent-disposition: form-data; name="file"; filename="{name}"\r\ncontent-type: image/png\r\n\r\n'
            body += head.encode() + open(os.path.join(folder, name), "rb").read() + b"\r\n"
        b.ask(f"{url}/deliveries/{delivery}/drawings", body + f"--{border}--\r\n".encode(), what="send six drawings", kind=f"multipart/form-data; boundary={border}")


with tempfile.TemporaryDirectory() as folder:
    subprocess.run([program, "render", str(count), folder], check=True)
    names = sorted(os.listdir(folder))
    lead = signed_in("ilse@nighttram.example")
    url = f"/api/v1/productions/{lead.ask('/api/v1/session')['productions'][0]['id']}"
    guide = lead.ask(f"{url}/guides")[0]["id"]
    made = [lead.ask(f"{url}/deliveries", {"name": f"load {k}", "guide_id": guide, "pattern": "{shot}_{artist}_{drawing}"})["id"] for k in range(3)]
    old = [d["id"] for d in lead.ask(f"{url}/deliveries")][:2]
    threads = [threading.Thread(target=member, args=(k, url, made + old)) for k in range(members)]
    # Guesses are slowed down, and all members sign in from one address here.
    for t in threads:
        t.start()
        time.sleep(0.55)
    took.clear()
    start = time.perf_counter()
    senders = [threading.Thread(target=deliver, args=(signed_in("ilse@nighttram.example"), url, d, folder, names)) for d in made]
    for s in senders:
        s.start()
    for s in senders:
        s.join()
    print(f"three deliveries of {count} sent\ts\t{time.perf_counter() - start:.1f}")
    while True:
        rows = [d for d in lead.ask(f"{url}/deliveries") or [] if d["id"] in made]
        if len(rows) == 3 and all(d["done"] + d["failed"] == count for d in rows):
            break
        time.sleep(1)
    print(f"all {3 * count} weighed ({sum(d['failed'] for d in rows)} not read)\ts\t{time.perf_counter() - start:.1f}")
    done.set()
    for t in threads:
        t.join()
    for what, times in sorted(took.items()):
        times.sort()
        at = lambda q: 1000 * times[min(len(times) - 1, int(q * len(times)))]
        print(f"{what}: {len(times)} times, median / 95 % / worst\tms\t{at(0.5):.0f} / {at(0.95):.0f} / {1000 * times[-1]:.0f}")
    print(f"requests that went wrong\t1\t{sum(wrong.values())} {dict(wrong) if wrong else ''}")
