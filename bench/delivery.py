"""A delivery through the running program, from the first byte sent to the last drawing weighed:

    bin/start &  cargo build --release -p eddymist-bench
    python3 bench/delivery.py target/release/eddymist-bench 200 http://127.0.0.1:8380
"""
import http.cookiejar
import json
import os
import subprocess
import sys
import tempfile
import threading
import time
import urllib.request
import uuid

program, count, base = sys.argv[1], int(sys.argv[2]), sys.argv[3]
browser = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(http.cookiejar.CookieJar()))


def ask(path, body=None, kind="application/json"):
    data = json.dumps(body).encode() if isinstance(body, dict) else body
    request = urllib.request.Request(base + path, data, {"content-type": kind} if data else {})
    return browser.open(request)


def send(names, folder, url):
    border = uuid.uuid4().hex
    body = b""
    for name in names:
        head = f'--{border}\r\ncontent-disposition: form-data; name="file"; filename="{name}"\r\ncontent-type: image/png\r\n\r\n'
        body += head.encode() + open(os.path.join(folder, name), "rb").read() + b"\r\n"
    ask(url, body + f"--{border}--\r\n".encode(), f"multipart/form-data; boundary={border}").read()


with tempfile.TemporaryDirectory() as folder:
    subprocess.run([program, "render", str(count), folder], check=True)
    ask("/api/v1/session", {"email": "ilse@nighttram.example", "password": "last tram home"}).read()
    production = json.load(ask("/api/v1/session"))["productions"][0]["id"]
    url = f"/api/v1/productions/{production}"
    guide = json.load(ask(url + "/guides"))[0]["id"]
    made = {"name": f"{count} drawings to time", "guide_id": guide, "pattern": "{shot}_{artist}_{drawing}"}
    delivery = json.load(ask(url + "/deliveries", made))["id"]
    names = sorted(os.listdir(folder))
    start = time.perf_counter()
    sent = []

    def sending():
        # As the page does: six at a time.
        for i in range(0, len(names), 6):
            send(names[i : i + 6], folder, f"{url}/deliveries/{delivery}/drawings")
        sent.append(time.perf_counter() - start)

    sender = threading.Thread(target=sending)
    sender.start()
    first = None
    while True:
        time.sleep(0.5)
        row = next(d for d in json.load(ask(f"{url}/deliveries")) if d["id"] == delivery)
        if row["done"] and first is None:
            first = time.perf_counter() - start
        if row["done"] + row["failed"] == count:
            break
    weighed = time.perf_counter() - start
    sender.join()
    while json.load(ask(f"{url}/deliveries/{delivery}"))["sequence"] is None:
        time.sleep(0.5)
    print(f"first result after the first byte was sent, to half a second\ts\t{first:.1f}")
    print(f"{count} drawings of 1920x1080 sent\ts\t{sent[0]:.1f}")
    print(f"{count} drawings of 1920x1080 weighed ({row['failed']} not read)\ts\t{weighed:.1f}")
    print(f"{count} drawings and their sequence\ts\t{time.perf_counter() - start:.1f}")
    # Servers and workers on this machine; their highest memory since they were started.
    for pid in filter(str.isdigit, os.listdir("/proc")):
        try:
            words = open(f"/proc/{pid}/cmdline").read().split("\0")
            status = open(f"/proc/{pid}/status").read()
        except OSError:
            continue
        if len(words) > 1 and words[0].endswith("eddymist") and words[1] in ("serve", "worker"):
            peak = next(line.split()[1] for line in status.splitlines() if line.startswith("VmHWM"))
            print(f"{words[1]}, memory at most\tMB\t{int(peak) / 1024:.0f}")
