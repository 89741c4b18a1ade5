# SPDX-License-Identifier: Apache-2.0
"""Tune under many edits: each answer beside the command line, its time, the memory; then a browser, with the page of a board.

prove_tune.py TOOL BOARD EDITS [SEED]
"""
import json
import os
import random
import subprocess
import sys
import tempfile
import time
import urllib.request

sys.path.insert(0, os.path.join(os.path.dirname(__file__), "../../link/prove"))


class Served:
    def __init__(self, tool, *arguments):
        self.process = subprocess.Popen([tool, "tune", *arguments, "--for", "1 h"], stdout=subprocess.PIPE, text=True)
        self.address = self.process.stdout.readline().split()[1]

    def ask(self, what, settings, channel=""):
        body = json.dumps({"settings": settings, "channel": channel}).encode()
        with urllib.request.urlopen(urllib.request.Request(self.address + what, data=body)) as reply:
            return json.load(reply)

    def memory(self):
        with open(f"/proc/{self.process.pid}/status", encoding="ascii") as status:
            return next(int(line.split()[1]) for line in status if line.startswith("VmRSS")) / 1024

    def end(self):
        self.process.terminate()
        return self.process.wait(timeout=10)


def edit(rng, settings):
    """One key more, or another value of one, or one less, as a user goes on."""
    e24 = [10, 11, 12, 13, 15, 16, 18, 20, 22, 24, 27, 30, 33, 36, 39, 43, 47, 51, 56, 62, 68, 75, 82, 91]
    knobs = {
        "channel.pack_voltage.frontend[0].divider.top": lambda: f'"{rng.choice([220, 232, 240, 249, 261])} kohm ±{rng.choice([0.1, 0.5, 1])} %"',
        "channel.pack_voltage.frontend[0].divider.bottom": lambda: f'"{rng.uniform(9, 11):.3g} kohm ±0.1 %"',
        "channel.pack_voltage.average": lambda: str(rng.randint(1, 200)),
        "channel.auxiliary_supply.average": lambda: str(rng.randint(1, 50)),
        "channel.auxiliary_supply.frontend[1].lowpass.resistor": lambda: f'"{rng.choice(e24) * 100} ohm ±1 %"',
        "channel.coolant_flow.average": lambda: str(rng.randint(1, 100)),
        "channel.coolant_flow.filter": lambda: rng.choice(["[]", '[{ kind = "exponential", weight = 0.25 }]',
                                                           '[{ kind = "moving average", length = 8 }]']),
        "channel.coolant_flow.target.accuracy": lambda: f'"±{rng.uniform(0.2, 3):.2g} % of span"',
        "channel.coolant_flow.rate": lambda: f'"{rng.choice([250, 500, 1000, 2000])} Sa/s"',
        "reference.precision.voltage": lambda: f'"2.5 V ±{rng.choice([0.02, 0.05, 0.2])} %"',
        "converter.main.resolution": lambda: f'"{rng.choice([10, 12, 14, 16])} bit"',
        "converter.main.offset": lambda: f'"±{rng.uniform(0.5, 5):.2g} LSB"',
        "conditions.temperature": lambda: f'"{rng.randint(-20, 20)}..{rng.randint(30, 80)} degC"',
        "conditions.age": lambda: rng.choice(['"1 year"', '"5 years"']),
    }
    settings = dict(settings)
    key = rng.choice(list(knobs))
    if key in settings and rng.random() < 0.3:
        del settings[key]
    else:
        settings[key] = knobs[key]()
    return settings if len(settings) < 8 else {}


def many_edits(tool, board, count, seed):
    rng = random.Random(seed)
    served = Served(tool, board)
    settings, times, differing, refused, early = {}, [], 0, 0, None
    with tempfile.TemporaryDirectory() as folder:
        overlay = os.path.join(folder, "changes.toml")
        for number in range(count):
            settings = edit(rng, settings)
            listed = [f"{key}={value}" for key, value in settings.items()]
            channel = rng.choice(["pack_voltage", "auxiliary_supply", "coolant_flow"])
            began = time.perf_counter()
            answer = served.ask("evaluate", listed, channel)
            times.append(time.perf_counter() - began)
            with open(overlay, "w", encoding="utf-8") as file:
                file.write(served.ask("write", listed)["text"])
            told = subprocess.run([tool, "budget", board, overlay, "--format", "json"], capture_output=True, text=True)
            if "problems" in answer or told.returncode > 1:
                refused += 1
                same = "problems" in answer and told.returncode == 2
            else:
                same = answer["result"]["budget"]["channels"] == json.loads(told.stdout)["channels"]
            if not same:
                differing += 1
                print("differs:", listed)
            if number == min(100, count // 4):
                early = served.memory()
    times.sort()
    late = served.memory()
    print(f"{count} edits, {differing} differ from the command line, {refused} refused by both; "
          f"an answer takes {1000 * times[count // 2]:.0f} ms, {1000 * times[int(0.95 * count)]:.0f} ms at the 95th percentile; "
          f"{early:.0f} MB after the first, {late:.0f} MB at the end")
    assert served.end() == 0 and differing == 0 and late < early + 20


def damaged(rng, text):
    """The bytes with one to eight places changed, left out, put in or repeated."""
    data = bytearray(text)
    for _ in range(rng.randint(1, 8)):
        at = rng.randrange(len(data) + 1)
        rng.choice([lambda: data.__setitem__(slice(at, at + 1), bytes([rng.randrange(256)])),
                    lambda: data.__delitem__(slice(at, at + rng.randint(1, 9))),
                    lambda: data.__setitem__(slice(at, at), rng.choice([b'"', b"\\", b"[", b"{", b"]", b"\0", b"\xff", b"1e999", b"-", b"=", b"9"])),
                    lambda: data.extend(data[at:])])()
    return bytes(data)


def malformed(tool, board, count, seed):
    """Damaged bodies, and sound ones with a damaged setting: each is answered, in words or with figures."""
    rng, served, settings, slowest = random.Random(seed), Served(tool, board), {}, 0.0
    told = {"problems": 0, "result": 0, "advice": 0, "text": 0}
    try:
        for number in range(count):
            settings = edit(rng, settings)
            listed = [f"{key}={value}" for key, value in settings.items()]
            if number % 2 and listed:
                listed.append(damaged(rng, rng.choice(listed).encode()).decode("latin-1"))
            body = json.dumps({"settings": listed, "channel": "coolant_flow"}).encode()
            what = rng.choice(["evaluate"] * 6 + ["write", "advise"])
            began = time.perf_counter()
            with urllib.request.urlopen(served.address + what, data=body if number % 2 else damaged(rng, body), timeout=30) as reply:
                answer = json.load(reply)
            slowest = max(slowest, time.perf_counter() - began)
            told[next(kind for kind in told if kind in answer)] += 1
    finally:
        assert served.end() == 0
    print(f"{count} damaged bodies: {told['problems']} refused in words, the others answered; the slowest took {slowest:.1f} s")


# The least contrast of any text that is seen with what lies behind it (WCAG 2, 1.4.3), and the text.
CONTRAST = """(() => {
  const parts = (text) => (text.match(/[\\d.]+/g) || []).map(Number);
  const light = (rgb) => { const [r, g, b] = rgb.map((v) => (v /= 255) <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4); return 0.2126 * r + 0.7152 * g + 0.0722 * b; };
  const behind = (node) => { for (; node; node = node.parentElement) { const c = parts(getComputedStyle(node).backgroundColor); if (c.length === 3 || c[3] > 0) return c; } return [255, 255, 255]; };
  let least = [99, ""];
  for (const node of document.querySelectorAll("body *")) {
    if (![...node.childNodes].some((child) => child.nodeType === 3 && child.data.trim()) || !node.getClientRects().length || node.disabled) continue;
    const style = getComputedStyle(node), own = parts(node instanceof SVGElement ? style.fill : style.color), [a, b] = [light(own.slice(0, 3)), light(behind(node).slice(0, 3))];
    const contrast = (Math.max(a, b) + 0.05) / (Math.min(a, b) + 0.05);
    if (style.visibility === "visible" && contrast < least[0]) least = [contrast, node.textContent.slice(0, 40)];
  }
  return least;
})()"""


def board_page(tool, board, folder):
    """The page of a board draws its charts itself, logs nothing and can be read in both schemes."""
    from browser import Browser

    path, least = os.path.join(folder, "board.html"), []
    subprocess.run([tool, "page", board, os.path.join(os.path.dirname(board), "readings.csv"), "--write", path], stdout=subprocess.DEVNULL, check=False)
    for width, height, dark in ((1280, 800, False), (390, 844, True)):
        page = Browser(width, height, dark)
        try:
            page.open("file://" + path, 0.5)
            page.value("document.querySelectorAll('details').forEach((fold) => { fold.open = true; })")
            drawn, lines = page.value("[document.querySelectorAll('.figure svg').length, document.querySelectorAll('.figure path').length]")
            assert drawn >= 10 and lines > 2 * drawn and not page.logged(), (drawn, lines, page.logged())
            least.append(page.value(CONTRAST))
        finally:
            page.close()
    return least


def in_a_browser(tool, board):
    from browser import Browser

    with tempfile.TemporaryDirectory() as folder:
        overlay = os.path.join(folder, "changes.toml")
        served, page, narrow = Served(tool, board, "--write", overlay), Browser(), Browser(390, 844, dark=True)
        try:
            steps_of(tool, board, overlay, served, page, narrow)
            contrasts = [each.value(CONTRAST) for each in (page, narrow)]
        finally:
            page.close()
            narrow.close()
            ended = served.end()
        assert ended == 0
        contrasts += board_page(tool, board, folder)
    print("Least contrasts, tune and page, light and dark:", "; ".join(f"{value:.2f} ({text})" for value, text in contrasts))
    assert all(value >= 4.5 for value, _ in contrasts), contrasts
    print("In a browser: loaded, changed, broken, mended, undone, written and read back; nothing asked from outside, nothing logged.")


def steps_of(tool, board, overlay, served, page, narrow):
    page.open(served.address, 0.5)

    def until(expression, what):
        end = time.time() + 20
        while time.time() < end:
            if page.value(f"!!({expression})"):
                return
            page.wait(0.05)
        raise AssertionError(f"{what}: {page.value('document.body.innerText')}")

    def field(key):
        return f"document.querySelector('[data-key=\"{key}\"] input')"

    def type_in(key, text):
        page.value(f"(() => {{ const i = {field(key)}; i.closest('details').open = true; i.focus(); i.value = {json.dumps(text)}; "
                   "i.dispatchEvent(new Event('input')); })()")

    def settled(what):
        until("/ms$/.test(document.getElementById('status').textContent)", what)
        page.wait(0.3)
        until("/ms$/.test(document.getElementById('status').textContent)", what)

    def printed(*files):
        return subprocess.run([tool, "budget", board, *files], capture_output=True, text=True).stdout

    def headline():
        return page.value("document.querySelector('#verdicts button').textContent")

    top = "channel.pack_voltage.frontend[0].divider.top"
    settled("the first figures")
    assert headline() in printed(), headline()
    type_in(top, "220 kohm ±0.1 %")
    settled("another resistor")
    page.value("document.getElementById('write').click()")
    until("/^written/.test(document.getElementById('status').textContent)", "write")
    missed = headline()
    assert missed in printed(overlay) and missed not in printed(), missed
    type_in(top, "220 kohmm")
    until(f"/expected a unit of ohm/.test({field(top)}.closest('.field').querySelector('.says').textContent)", "the message")
    assert page.value("document.getElementById('figures').classList.contains('stale')") and headline() == missed
    page.value("document.getElementById('undo').click()")
    settled("undo")
    assert headline() == missed
    until("document.querySelector('#findings button')", "a remedy")
    page.value("document.querySelector('#findings button').click()")
    settled("its application")
    until("!document.querySelector('#findings .bad')", "no error is left")
    page.value("document.getElementById('write').click()")
    until("/^written/.test(document.getElementById('status').textContent)", "write")
    assert headline() in printed(overlay), headline()
    for _ in range(2):
        page.value("document.getElementById('undo').click()")
        settled("undo")
    assert headline() in printed(), headline()
    outside = [event["params"]["request"]["url"] for event in page.events if event["method"] == "Network.requestWillBeSent"
               and not event["params"]["request"]["url"].startswith((served.address, "data:"))]
    logged = [event for event in page.events if event["method"] in ("Runtime.exceptionThrown", "Log.entryAdded")]
    assert not outside and not logged, (outside, logged)
    narrow.open(served.address, 3)
    wide = narrow.value("document.documentElement.scrollWidth")
    assert wide <= 390, wide


if __name__ == "__main__":
    program, described = sys.argv[1:3]
    edits, first = int(sys.argv[3]), int(sys.argv[4]) if len(sys.argv) > 4 else 1
    many_edits(program, described, edits, first)
    malformed(program, described, 10 * edits, first)
    try:
        import websocket  # noqa: F401
        subprocess.run(["chromium", "--version"], capture_output=True, check=True)
    except (ImportError, OSError, subprocess.CalledProcessError):
        print("The browser is skipped: chromium or python3-websocket is missing.")
    else:
        in_a_browser(program, described)
