# SPDX-License-Identifier: Apache-2.0
"""Holds what the tool of Windows says against what the tool of this machine says: its text, letter by letter, and
every number of its JSON. Then what differs between the systems: line ends, names of files, files that are replaced,
held, or may not be written.

    same_figures.py TOOL TOOL.exe
"""
import json
import os
import re
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path

here, windows = Path(sys.argv[1]).resolve(), Path(sys.argv[2]).resolve()
source = Path(__file__).resolve().parents[3]
environment = {**os.environ, "LC_ALL": "C.UTF-8", "WINEDEBUG": "-all"}


def run(tool, arguments, folder, given=b""):
    words = [str(tool), *arguments] if tool == here else ["wine", str(tool), *arguments]
    # Files, not pipes: what the emulator leaves running would hold those open.
    with tempfile.TemporaryFile() as said, tempfile.TemporaryFile() as complained:
        status = subprocess.run(words, cwd=folder, env=environment, input=given, stdout=said, stderr=complained, timeout=600).returncode
        said.seek(0), complained.seek(0)
        return subprocess.CompletedProcess(words, status, said.read(), complained.read())


def commands(folder):
    """The arguments of each command that is tried, with the demo's files and every example board."""
    demo = [
        ["budget"], ["check"], ["channel"], ["convert", "pack_voltage"], ["firmware"], ["registers"],
        ["budget", "--trials", "20000", "--channel", "pack_voltage"], ["budget", "--advise"],
        ["budget", "--over", "temperature"], ["budget", "--set", "channel.pack_voltage.frontend[0].divider.top=241k"],
        ["explore", "choices.toml"], ["compare", "readings.csv"], ["compare", "first_unit.csv", "--all"],
        ["compare", "readings_units.csv"], ["calibrate", "readings.csv", "--channel", "pack_voltage"],
        ["record", "steady.raw", "--layout", "int16", "--channel", "pack_voltage"],
        ["prove", "--channel", "pack_voltage", "--unit", "1..500"],
    ]
    for command, *rest in demo:
        yield [command, "board.toml", *rest]
    for board in sorted(folder.glob("examples/*.toml")):
        for command in ("check", "channel", "budget", "firmware"):
            yield [command, f"examples/{board.name}"]


def numbers(value, path=""):
    """Every number and text of a JSON document, with where it stands."""
    if isinstance(value, dict):
        for key, part in value.items():
            yield from numbers(part, f"{path}.{key}")
    elif isinstance(value, list):
        for index, part in enumerate(value):
            yield from numbers(part, f"{path}[{index}]")
    else:
        yield path, value


def held(folder):
    """Counts what is the same; says where it is not."""
    count = {"commands": 0, "texts": 0, "numbers": 0, "to the last bit": 0}
    far, wrong = [], []
    for arguments in commands(folder):
        name = " ".join(arguments)
        mine, theirs = (run(tool, arguments, folder) for tool in (here, windows))
        count["commands"] += 1
        if mine.returncode != theirs.returncode or b"\r" in theirs.stdout:
            wrong.append(f"{name}: status {mine.returncode} and {theirs.returncode}: {theirs.stderr.decode()[:200]}")
            continue
        if mine.stdout == theirs.stdout:
            count["texts"] += 1
        else:
            lines = zip(mine.stdout.decode().splitlines(), theirs.stdout.decode().splitlines())
            first = next(((a, b) for a, b in lines if a != b), ("", "another length"))
            wrong.append(f"{name}:\n   {first[0]}\n   {first[1]}")
        mine, theirs = (run(tool, [*arguments, "--format", "json"], folder).stdout for tool in (here, windows))
        if not mine and not theirs:
            continue  # no JSON of this command
        pairs = list(zip(numbers(json.loads(mine)), numbers(json.loads(theirs))))
        for (path, a), (_, b) in pairs:
            if isinstance(a, bool) or not isinstance(a, (int, float)):
                if a != b:
                    wrong.append(f"{name}: {path}: {a!r} and {b!r}")
                continue
            count["numbers"] += 1
            count["to the last bit"] += a == b
            if abs(a - b) > 1e-12 * max(abs(a), abs(b)):
                far.append((abs(a - b), f"{name}: {path}: {a!r} and {b!r}"))
    print(", ".join(f"{value} {key}" for key, value in count.items()))
    far.sort(reverse=True)
    print(f"{len(far)} of them differ by more than 1e-12 of themselves; the largest differences:",
          *(each for _, each in far[:12]), sep="\n   ")
    for each in wrong:
        print("DIFFERS:", each)
    return not wrong


def expect(holds, claim):
    print("holds:" if holds else "FAILS:", claim)
    return holds


def files(folder):
    """What systems do differently with files."""
    board = (folder / "board.toml").read_bytes()
    budget = run(windows, ["budget", "board.toml"], folder).stdout
    (folder / "carriage.toml").write_bytes(board.replace(b"\n", b"\r\n"))
    yield expect(run(windows, ["budget", "carriage.toml"], folder).stdout == budget, "lines that end in CR LF")
    named = folder / "Prüfling Ω 1"
    named.mkdir()
    shutil.copy(folder / "board.toml", named / "Gerät.toml")
    yield expect(run(windows, ["budget", "Prüfling Ω 1/Gerät.toml"], folder).stdout == budget,
                 "names of files beyond ASCII")
    yield expect(run(windows, ["budget", "Prüfling Ω 1\\Gerät.toml"], folder).stdout == budget,
                 "names of files with backslashes")
    column = ["convert", "board.toml", "pack_voltage", "--at", "-", "--format", "csv"]
    yield expect(run(windows, column, folder, b"12\r\n48\r\n").stdout == run(here, column, folder, b"12\n48\n").stdout,
                 "a column from standard input, to standard output")
    write = ["calibrate", "board.toml", "readings.csv", "--channel", "pack_voltage", "--write", "Ω.toml"]
    (folder / "Ω.toml").write_text("old")
    done = run(windows, write, folder)
    run(here, [*write[:-1], "linux.toml"], folder)
    texts = [re.sub(r"[0-9.]{15,}", lambda number: f"{float(number[0]):.12g}", (folder / name).read_text())
             for name in ("Ω.toml", "linux.toml")]
    yield expect(done.returncode == 0 and texts[0] == texts[1], "a file is replaced, by the same text to 12 digits")
    yield expect(not list(folder.glob("*.part")), "nothing is left beside it")
    (folder / "linux.toml").chmod(0o444)
    refused = run(windows, [*write[:-1], "linux.toml"], folder)
    yield expect(refused.returncode == 3 and b"linux.toml" in refused.stderr, "a file of mode 0444 is not replaced")
    written = run(windows, ["firmware", "board.toml", "--write", "code"], folder)
    run(here, ["firmware", "board.toml", "--write", "code_here"], folder)
    pairs = [(f.read_bytes(), (folder / "code" / f.name).read_bytes()) for f in (folder / "code_here").iterdir()]
    yield expect(written.returncode in (0, 1) and pairs and all(a == b for a, b in pairs),
                 f"{len(pairs)} files of firmware, the same bytes as here")
    page = run(windows, ["page", "board.toml", "--write", "page.html"], folder)
    yield expect(page.returncode in (0, 1) and b"</html>" in (folder / "page.html").read_bytes(), "a page")
    prove = ["prove", "board.toml", "--channel", "pack_voltage", "--unit", "1..500", "--resume", "kept.csv"]
    first, again = run(windows, prove, folder), run(windows, prove, folder)
    yield expect(first.returncode == 0 and first.stdout == again.stdout, "progress that is kept and read again")
    missing = run(windows, ["budget", "none.toml"], folder)
    yield expect(missing.returncode == 2 and b"no such file" in missing.stderr, "a file that is not there")
    for arguments, word in ((["watch", "board.toml"], b"links"), (["budget", "board.toml", "--channel", "pack_voltage", "--plot", "p.svg"], b"page"),
                            (["budget", "board.toml", "--format", "xlsx"], b"csv"),
                            (["record", "board.toml", "sine.wav", "--channel", "pack_voltage"], b"sndfile.dll")):
        refused = run(windows, arguments, folder)
        yield expect(refused.returncode in (2, 3) and word in refused.stderr, "said: " + refused.stderr.decode().strip())


with tempfile.TemporaryDirectory() as temporary:
    work = Path(temporary) / "work"
    shutil.copytree(source / "demo", work)
    shutil.copytree(source / "examples/boards", work / "examples")
    results = [held(work), *files(work)]
sys.exit(0 if all(results) else 1)
