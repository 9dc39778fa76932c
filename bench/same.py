"""What a revision of the project answers, and whether two answer the same (bench/same.sh).

    same.py ask ADDRESS PROGRAM OUT INPUTS    everything of the demo by the interface, and by the command on INPUTS/files
    same.py compare BEFORE AFTER              byte for byte; pictures by their pixels

Identifiers become numbers in the order in which they are met, times become a word: nothing else may differ. A pixel differs where a
channel is off by more than 2 of 255: the browser itself draws the corners of a box now one way, now another.
"""
import filecmp
import http.cookiejar
import json
import pathlib
import re
import subprocess
import sys
import urllib.error
import urllib.request

ID = re.compile(r"[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}")
TIME = re.compile(r"\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d[0-9.]*Z")


class Side:
    """One running program."""

    def __init__(self, base):
        self.base = base
        self.opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(http.cookiejar.CookieJar()))
        self.ids = {}

    def bytes(self, path, body=None):
        data = json.dumps(body).encode() if body is not None else None
        request = urllib.request.Request(self.base + path, data, {"content-type": "application/json"} if data else {})
        try:
            return self.opener.open(request).read()
        except urllib.error.HTTPError as refused:
            # A refusal is an answer like any other.
            return refused.read()

    def json(self, path, body=None):
        return json.loads(self.bytes(path, body))

    def plain(self, text):
        text = TIME.sub("TIME", text)
        return ID.sub(lambda m: f"id-{self.ids.setdefault(m.group(0), len(self.ids))}", text)


def ask(base, program, out, inputs):
    side, out = Side(base), pathlib.Path(out)
    side.json("/api/v1/session", {"email": "ilse@nighttram.example", "password": "last tram home"})
    p = "/api/v1/productions/" + side.json("/api/v1/session")["productions"][0]["id"]

    def keep(name, path, body=None):
        value = side.json(p + path, body)
        (out / f"{name}.json").write_text(side.plain(json.dumps(value, indent=1, ensure_ascii=False)))
        return value

    deliveries = sorted(keep("deliveries", "/deliveries"), key=lambda d: d["name"])
    wait(side, p, deliveries)
    for name in ["desk", "guides", "trials", "roll", "transfer", "members", "log", "archive", "stand-ins", "library"]:
        keep(name, f"/{name}")
    pens = keep("pens", "/pens")
    for pen in sorted(pens, key=lambda x: x["name"]):
        keep(f"pen {pen['name']}", f"/pens/{pen['id']}")
    for q in sorted(keep("profiles", "/profiles"), key=lambda x: (x["artist"], x["tablet"])):
        who = f"{q['artist']} on {q['tablet']}"
        keep(f"profile {who}", f"/profiles/{q['id']}")
        keep(f"evidence {who}", f"/profiles/{q['id']}/evidence")
        keep(f"second estimate {who}", f"/profiles/{q['id']}/second-estimate/{sorted(pens, key=lambda x: x['name'])[0]['id']}")
    for b in sorted(keep("brushes", "/brushes"), key=lambda x: x["name"]):
        one = keep(f"brush {b['name']}", f"/brushes/{b['id']}")
        parts = ["weight", "nib", "pace", "pooling", "lead-in", "lead-out", "edge", "steadiness"]
        for what, body in [("bench", {}), ("fit", {"fit": parts if one["pen"] else []}), ("flicks", {"exercise": "flick"}), ("ramps", {"exercise": "ramp"})]:
            keep(f"{what} {b['name']}", f"/brushes/{b['id']}/bench", {"brush": b["brush"], **body})
    for d in deliveries:
        whole = keep(f"delivery {d['name']}", f"/deliveries/{d['id']}")
        keep(f"line check {d['name']}", f"/deliveries/{d['id']}/line-check")
        (out / f"findings {d['name']}.csv").write_bytes(side.bytes(f"{p}/deliveries/{d['id']}/out/findings.csv"))
        for drawing in whole["drawings"]:
            keep(f"drawing {d['name']} {drawing['file']}", f"/drawings/{drawing['id']}")
        first = whole["drawings"][0]
        keep(f"across {d['name']}", f"/drawings/{first['id']}/across/960/540/30")
        (out / f"overlay {d['name']}.svg").write_bytes(side.bytes(f"{p}/drawings/{first['id']}/overlay/svg"))
    team = keep("team", "/team")
    for by in ["tablet", "brush"]:
        keep(f"team by {by}", f"/team?by={by}")
    seen = {(a["name"], r["role"]) for a in team["look"]["artists"] for r in a.get("roles", [])} if "artists" in team["look"] else set()
    for name, role in sorted(seen | {("dov", "contour"), ("teo", "contour")}):
        keep(f"working {name} {role}", f"/team/working/{name}/{role.replace(' ', '%20')}")
    (out / "report.csv").write_bytes(side.bytes(f"{p}/team/report/csv"))
    command(side, p, program, out, pathlib.Path(inputs) / "files")


def wait(side, p, deliveries):
    """Until every delivery is checked and its sequence looked at."""
    for d in deliveries:
        side.bytes(f"{p}/deliveries/{d['id']}/progress")


def command(side, p, program, out, files):
    """The command on files that the first side gave out."""
    if not files.exists():
        files.mkdir(parents=True)
        (files / "drawings").mkdir()
        for pen in side.json(p + "/stand-ins")["pens"]:
            (files / f"{pen['id']}.png").write_bytes(side.bytes(f"{p}/stand-ins/scans/{pen['id']}"))
        (files / "sheet.png").write_bytes(side.bytes(f"{p}/stand-ins/sheets/steel-nib"))
        for i, q in enumerate(sorted(side.json(p + "/profiles"), key=lambda x: (x["artist"], x["tablet"]))):
            (files / f"warm-up-{i}.inkml").write_bytes(side.bytes(f"{p}/profiles/{q['id']}/warm-up"))
            (files / f"profile-{i}.json").write_text(json.dumps(q["profile"]))
        (files / "guide.json").write_text(json.dumps(side.json(p + "/guides")[0]["guide"]))
        d = sorted(side.json(p + "/deliveries"), key=lambda d: d["name"])[0]
        for drawing in side.json(f"{p}/deliveries/{d['id']}")["drawings"][:12]:
            (files / "drawings" / drawing["file"].replace("/", "_")).write_bytes(side.bytes(f"{p}/images/{drawing['sha256']}"))
    card = out / "measure sheet.json"
    runs = {f"measure line {s.stem}": ["measure", "line", s, "--json"] for s in sorted(files.glob("*.png")) if s.stem != "sheet"}
    runs["measure sheet"] = ["measure", "sheet", files / "sheet.png", "--json"]
    for i in range(len(list(files.glob("warm-up-*.inkml")))):
        warmup = files / f"warm-up-{i}.inkml"
        runs[f"tablet {i}"] = ["tablet", warmup, "--json"]
        runs[f"fit {i}"] = ["fit", "--pen", card, "--warmup", warmup, "--tablet", files / f"profile-{i}.json", "--json"]
        runs[f"fit without a profile {i}"] = ["fit", "--pen", card, "--warmup", warmup, "--json"]
    runs["fit without a warm-up"] = ["fit", "--pen", card, "--json"]
    runs["check"] = ["check", "--guide", files / "guide.json", files / "drawings", "--json"]
    for name, words in runs.items():
        done = subprocess.run([program, *map(str, words)], capture_output=True)
        (out / f"{name}.json").write_bytes(done.stdout)
        (out / f"{name}.status").write_text(f"{done.returncode}\n{done.stderr.decode().replace(str(out), 'OUT').replace(str(files), 'FILES')}")


def pixels(a, b):
    """How many pixels of two pictures differ, by the browser; -1 where their sizes do."""
    done = subprocess.run(["node", "e2e/same.mjs", "pixels", a.resolve(), b.resolve()], cwd="web", capture_output=True, text=True, check=True)
    return int(done.stdout)


def compare(before, after):
    before, after = pathlib.Path(before), pathlib.Path(after)
    names = sorted({f.name for side in (before, after) for f in side.iterdir() if f.is_file()})
    differs = []
    for name in names:
        a, b = before / name, after / name
        if not a.exists() or not b.exists():
            differs.append(f"{name}: only {'after' if b.exists() else 'before'}")
        elif not filecmp.cmp(a, b, shallow=False):
            if not name.endswith(".png"):
                differs.append(name)
            elif n := pixels(a, b):
                differs.append(f"{name}: another size" if n < 0 else f"{name}: {n} px")
    kinds = {}
    for n in names:
        kinds[n.rsplit(".", 1)[1]] = kinds.get(n.rsplit(".", 1)[1], 0) + 1
    print(f"{len(names)} answers compared ({', '.join(f'{n} {k}' for k, n in sorted(kinds.items()))}); {len(differs)} differ")
    print("\n".join(differs))
    sys.exit(1 if differs or not names else 0)


if sys.argv[1] == "ask":
    ask(*sys.argv[2:])
else:
    compare(*sys.argv[2:])
