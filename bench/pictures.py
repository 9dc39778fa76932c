"""Pictures in a store of their own, as bench/pictures.sh asks it: python pictures.py file|s3 PROGRAM MOTO_SERVER, with DATABASE_URL set."""
import hashlib
import http.cookiejar
import json
import os
import pathlib
import subprocess
import sys
import tempfile
import time
import urllib.error
import urllib.request

kind, program, moto = sys.argv[1:4]
base, bucket_port = "http://127.0.0.1:8397", "5597"
here = tempfile.TemporaryDirectory()
environment = dict(os.environ)
running = []


def begin(command, env):
    p = subprocess.Popen(command, env=env, stderr=subprocess.PIPE if command[0] == program else subprocess.DEVNULL, stdout=subprocess.DEVNULL)
    running.append(p)
    return p


def end(p):
    p.terminate()
    p.wait()
    running.remove(p)


def until(what, f, seconds=60):
    last = None
    for _ in range(seconds * 5):
        try:
            last = f()
            if last:
                return last
        except (OSError, ValueError) as e:
            last = e
        time.sleep(0.2)
    raise SystemExit(f"{kind}: {what} did not come about: {last}")


def sql(query):
    return subprocess.run(["psql", "-qtA", os.environ["DATABASE_URL"], "-c", query], check=True, capture_output=True, text=True).stdout.strip()


def served(env):
    p = begin([program, "serve", "--listen", "127.0.0.1:8397", "--pages", "web/dist", "--demo"], env)
    until("an answer", lambda: urllib.request.urlopen(base + "/readyz").read())
    return p


def ask(path, body=None, verb=None, media="application/json"):
    data = json.dumps(body).encode() if isinstance(body, dict) else body
    request = urllib.request.Request(base + path, data, {"content-type": media, "origin": base} if data else {}, method=verb)
    try:
        return 200, opener.open(request, timeout=30).read()
    except urllib.error.HTTPError as e:
        return e.code, e.read()


def objects():
    if kind == "file":
        return {p.name: p.read_bytes() for p in pathlib.Path(here.name, "store").rglob("*") if p.is_file()}
    return {o.key.split("/")[-1]: o.get()["Body"].read() for o in bucket.objects.all()}


try:
    plain = {k: v for k, v in environment.items() if k != "EDDYMIST_PICTURES"}
    for command in ("migrate", "demo"):
        subprocess.run([program, command], env=plain, check=True, stdout=subprocess.DEVNULL)
    elsewhere = dict(plain)
    store = None
    if kind == "file":
        elsewhere["EDDYMIST_PICTURES"] = f"file://{here.name}/store"
    else:
        import boto3

        keys = {"AWS_ACCESS_KEY_ID": "nobody", "AWS_SECRET_ACCESS_KEY": "nothing", "AWS_REGION": "us-east-1"}
        elsewhere |= keys | {"EDDYMIST_PICTURES": "s3://tram/line/pictures", "AWS_ENDPOINT": f"http://127.0.0.1:{bucket_port}", "AWS_ALLOW_HTTP": "true"}
        store = begin([moto, "-p", bucket_port], plain)
        until("the bucket's server", lambda: urllib.request.urlopen(f"http://127.0.0.1:{bucket_port}").status == 200)
        s3 = boto3.resource("s3", endpoint_url=f"http://127.0.0.1:{bucket_port}", region_name="us-east-1", aws_access_key_id="nobody", aws_secret_access_key="nothing")
        bucket = s3.create_bucket(Bucket="tram")
    before = int(sql("SELECT count(*) FROM images"))
    assert before > 10, before
    server = served(elsewhere)
    until("all carried over", lambda: sql("SELECT count(*) FROM images WHERE bytes IS NOT NULL") == "0")
    assert len(objects()) == before and all(hashlib.sha256(b).hexdigest() == sha for sha, b in objects().items())
    print(f"{kind}\tcarried over\tpictures\t{before}")
    opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(http.cookiejar.CookieJar()))
    assert ask("/api/v1/session", {"email": "ilse@nighttram.example", "password": "last tram home"})[0] == 200
    url = f"/api/v1/productions/{json.loads(ask('/api/v1/session')[1])['productions'][0]['id']}"
    sha = sql("SELECT sha256 FROM drawings LIMIT 1")
    code, picture = ask(f"{url}/images/{sha}")
    assert code == 200 and hashlib.sha256(picture).hexdigest() == sha
    # A new drawing goes there, and is measured from there.
    guide = json.loads(ask(f"{url}/guides")[1])[0]["id"]
    delivery = json.loads(ask(f"{url}/deliveries", {"name": "elsewhere", "guide_id": guide, "pattern": ""})[1])["id"]
    fresh = picture + b"\x00"
    form = b'--x\r\ncontent-disposition: form-data; name="file"; filename="new.png"\r\n\r\n' + fresh + b"\r\n--x--\r\n"
    assert ask(f"{url}/deliveries/{delivery}/drawings", form, media="multipart/form-data; boundary=x")[0] == 200
    new = hashlib.sha256(fresh).hexdigest()
    assert objects()[new] == fresh and sql(f"SELECT bytes IS NULL FROM images WHERE sha256 = '{new}'") == "t"
    until("its measuring", lambda: sql(f"SELECT state FROM drawings WHERE sha256 = '{new}'") == "done")
    print(f"{kind}\tnew drawing kept, measured and read\tok\t1")
    # What lies there under a name must be what the name says.
    if kind == "file":
        there = next(pathlib.Path(here.name, "store").rglob(sha))
        there.write_bytes(b"something else")
        code, said = ask(f"{url}/images/{sha}")
        assert code == 503 and b"store of pictures" in said, (code, said)
        there.write_bytes(picture)
    else:
        end(store)
        code, said = ask(f"{url}/images/{sha}")
        assert code == 503 and b"store of pictures" in said and ask(f"{url}/deliveries")[0] == 200, (code, said)
        code, said = ask(f"{url}/deliveries/{delivery}/drawings", form.replace(fresh, fresh + b"\x00"), media="multipart/form-data; boundary=x")
        assert code == 503 and sql("SELECT count(*) FROM images") == str(before + 1), (code, said)
    print(f"{kind}\taway: 503 with its sentence, nothing changed\tok\t1")
    end(server)
    without = subprocess.run([program, "serve", "--listen", "127.0.0.1:8397", "--pages", "web/dist"], env=plain, capture_output=True, text=True)
    assert without.returncode == 2 and "EDDYMIST_PICTURES" in without.stderr, without
    print(f"{kind}\twithout the setting: {without.stderr.strip()}\tok\t1")
    if kind == "file":
        # Nothing refers to it for two days: swept, with its bytes.
        sql(f"DELETE FROM drawings WHERE sha256 = '{new}'; UPDATE production_images SET at = now() - interval '2 days' WHERE sha256 = '{new}'")
        server = served(elsewhere)
        until("the sweep", lambda: new not in objects() and sql(f"SELECT count(*) FROM images WHERE sha256 = '{new}'") == "0")
        assert len(objects()) == before
        print(f"{kind}\tswept\tpictures\t1")
        end(server)
finally:
    for p in list(running):
        end(p)
