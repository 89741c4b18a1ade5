# SPDX-License-Identifier: Apache-2.0
"""The package of Python beside the tool: the same figures to the last bit, errors with their problems, arrays as they are."""
import doctest
import json
import os
import pathlib
import signal
import subprocess
import threading
import zipfile
from xml.etree import ElementTree

import numpy
import pytest

import tamlo

SOURCE = pathlib.Path(__file__).resolve().parents[2]
DEMO = SOURCE / "demo"
BOARDS = [DEMO / "board.toml", *(SOURCE / f"examples/boards/{name}.toml" for name in ("temperatures", "weighing", "small_inputs", "cell_stack", "grip"))]
SMALL = {"reference": {"r": {"voltage": "2.5 V ±0.1 %"}}, "converter": {"c": {"resolution": "12 bit", "reference": "r"}},
         "channel": {"v": {"span": "0..10 V", "converter": "c", "rate": "1 kSa/s", "target": {"accuracy": "±2 % of span"},
                           "frontend": [{"divider": {"top": "30 kohm ±1 %", "bottom": "10 kohm ±1 %"}}]}}}


def by_tool(*arguments):
    told = subprocess.run([os.environ["TAMLO_TOOL"], *map(str, arguments), "--format", "json"], capture_output=True, text=True)
    assert told.returncode in (0, 1), told.stderr
    return json.loads(told.stdout)


@pytest.fixture(name="board", scope="module")
def demo_board():
    return tamlo.load(DEMO / "board.toml")


@pytest.mark.parametrize("path", BOARDS, ids=lambda path: path.stem)
def test_budget_check_and_settings_are_those_of_the_tool(path):
    board = tamlo.load(path)
    assert board.check().to_dict() == by_tool("check", path)
    assert board.channel().to_dict() == by_tool("channel", path)
    ours, theirs = board.budget(advice=len(board.channels) + len(board.quantities) == 1).to_dict(), by_tool("budget", path)
    assert ours == theirs


def test_the_bench_and_the_search_are_those_of_the_tool(board, tmp_path):
    for call, command in ((board.compare, "compare"), (lambda *a: board.calibrate(*a), "calibrate")):
        ours = call(DEMO / "readings.csv", "pack_voltage").to_dict()["channels"]
        theirs = by_tool(command, DEMO / "board.toml", DEMO / "readings.csv", "--channel", "pack_voltage")["channels"]
        for each in theirs:
            each.pop("before_after", None)
        for each in ours:
            each.pop("before_after", None)
        assert ours == theirs
    choices = tmp_path / "choices.toml"
    choices.write_text('format = 1\n[[choice]]\nname = "n"\nkey = "channel.coolant_flow.average"\nvalues = [1, 4, 16]\n')
    assert board.explore(choices, threads=2).to_dict() == by_tool("explore", DEMO / "board.toml", choices)
    plans = board.firmware().to_dict()
    assert plans == by_tool("firmware", DEMO / "board.toml")


def test_arguments_are_the_options_of_the_tool(board, tmp_path):
    of_tool = [DEMO / "board.toml", "--channel", "pack_voltage"]
    ours = board.budget("pack_voltage", at=["12.5 V", 48], coverage=0.99, trials=20000, seed=7, advice=True).to_dict()
    theirs = by_tool("budget", *of_tool, "--at", "12.5 V", "--at", "48 V", "--coverage", "0.99", "--trials", "20000", "--seed", "7")
    assert [point["at"] for point in theirs["channels"][0]["points"]] == [12.5, 48.0]
    assert ours == theirs
    assert board.budget("pack_voltage", at="48 V").channels[0].columns("points")["at"] == [48.0]
    later = DEMO / "readings_later.csv"
    compared = by_tool("compare", DEMO / "board.toml", later, "--channel", "pack_voltage", "--meter", "bench", "--coverage", "0.99")
    assert board.compare(later, "pack_voltage", meter="bench", coverage=0.99).to_dict() == compared
    for model, order in (("offset", 2), ("polynomial", 3), ("best", 2)):
        ours = board.calibrate(later, "pack_voltage", model=model, order=order, coverage=0.99)
        theirs = by_tool("calibrate", DEMO / "board.toml", later, "--channel", "pack_voltage", "--model", model, "--order", order,
                         "--coverage", "0.99", "--write", tmp_path / "unit.toml")
        assert {**ours.to_dict()["channels"][0], "before_after": []} == {**theirs["channels"][0], "before_after": []}
        assert ours.toml == (tmp_path / "unit.toml").read_text()
    samples = board.simulate("pack_voltage", "ramp", low="1 V", high="59 V", samples=5000, unit=3, seed=9)
    file = tmp_path / "ramp.csv"
    subprocess.run([os.environ["TAMLO_TOOL"], "simulate", *of_tool, "--input", "ramp", "--low", "1 V", "--high", "59 V", "--samples", "5000",
                    "--unit", "3", "--seed", "9", "--write", file], check=True, capture_output=True)
    assert (numpy.loadtxt(file, delimiter=",", skiprows=1, ndmin=2)[:, -1] == samples).all()
    changed = board.changed({"channel.pack_voltage.average": 4}).budget("pack_voltage").channels[0].worst_place.error
    what_if = by_tool("budget", *of_tool, "--set", "channel.pack_voltage.average=4")["channels"]
    assert changed == next(each for each in what_if if each["changed"])["worst_place"]["error"]


def test_arrays_are_readings_and_records(board):
    truth = numpy.linspace(2.0, 58.0, 9)
    of_arrays = board.compare({"meter": truth, "reading": truth * 1.001}, "pack_voltage", meter="bench").channels[0]
    assert of_arrays.summary.verdict == "pass" and len(of_arrays.rows) == 9
    codes = board.simulate("pack_voltage", "sine", frequency=37.0, samples=16384, seed=3)
    assert codes.dtype == float and set(numpy.unique(codes % 1)) == {0.0}
    assert numpy.ascontiguousarray(codes, dtype=float) is codes  # what record() takes is not copied
    wave = board.record(codes, "pack_voltage", "sine", rate=1000.0).channels[0]
    assert wave.samples == 16384 and wave.wave is not None and wave.steady is None
    again = board.simulate("pack_voltage", "sine", frequency=37.0, samples=16384, seed=3)
    assert (again == codes).all()


def test_units_are_taken_together_as_by_the_tool(board):
    units = board.compare(DEMO / "readings_units.csv").units
    text = subprocess.run([os.environ["TAMLO_TOOL"], "compare", DEMO / "board.toml", DEMO / "readings_units.csv", "--format", "json"],
                          stdout=subprocess.PIPE, check=False).stdout
    assert [unit.to_dict() for unit in units] == json.loads(text)["units"] != []


def test_boards_from_dictionaries_and_texts_and_changes():
    board = tamlo.describe(SMALL)
    first = board.budget("v").channels[0].worst_place
    assert 0.0 < first.error and first.about("error")
    tighter = board.changed({"channel.v.frontend[0].divider.top": "30 kohm ±0.1 %"})
    assert tighter.budget().channels[0].worst_place.error < first.error
    assert board.budget("v").channels[0].worst_place.error == first.error
    assert board.explore({"choice": [{"name": "n", "key": "channel.v.average", "values": [1, 4, 16]}]}).candidates == 3
    columns = board.budget("v").channels[0].columns("points")
    assert len(columns["at"]) == len(columns["expanded"]) >= 3
    assert {"v.c", "v.h"} == set(board.firmware("v").files)
    assert "findings" in dir(board.check())


@pytest.mark.parametrize("call, key, says", [
    (lambda board: tamlo.load("none.toml"), "", "no such file"),
    (lambda board: tamlo.describe({**SMALL, "chanel": {}}), "chanel", "channel"),
    (lambda board: board.changed({"channel.v.average": 0}), "channel.v.average", "integer from 1"),
    (lambda board: board.changed({"channel.v.averag": 2}), "channel.v.averag", "average"),
    (lambda board: board.budget("w"), "channel", "expected v"),
    (lambda board: board.budget(at=[10.1]), "at", "0..10 V"),
    (lambda board: board.budget(at=["nan"]), "at", ""),
    (lambda board: board.budget(at=["3 ohm"]), "at", "unit of V"),
    (lambda board: board.record(numpy.array([0.5]), "v"), "samples", "no code"),
    (lambda board: board.record(numpy.array([numpy.nan]), "v"), "samples", "no code"),
    (lambda board: board.simulate("v", "wobbly"), "input", "steady"),
    (lambda board: board.simulate("v", "sine", frequency=9e9), "frequency", "half the rate"),
    (lambda board: board.compare({"meter": [1.0], "reading": [1.0, 2.0]}, "v"), "readings", "lengths"),
    (lambda board: tamlo.load(DEMO / "board.toml").compare({"meter": [1.0], "reading": [1.0]}), "channel", "pack_voltage"),
    (lambda board: board.compare({"meter": [numpy.inf], "reading": [1.0]}, "v"), "readings", "finite"),
])
def test_bad_input_is_an_error_with_its_problems(call, key, says):
    with pytest.raises(tamlo.Error) as error:
        call(tamlo.describe(SMALL))
    problems = error.value.problems
    assert problems and (not key or problems[0]["key"] == key), problems
    assert says in str(error.value), error.value


def test_a_workbook_has_a_sheet_of_each_table_with_its_numbers(tmp_path, board):
    book = tmp_path / "budget.xlsx"
    with open(book, "wb") as file:
        assert subprocess.run([os.environ["TAMLO_TOOL"], "budget", DEMO / "board.toml", "--format", "xlsx"], stdout=file, check=False).returncode == 1
    names, numbers, texts, main = [], set(), set(), "{http://schemas.openxmlformats.org/spreadsheetml/2006/main}"
    with zipfile.ZipFile(book) as parts:
        assert parts.testzip() is None
        names = [sheet.get("name") for sheet in ElementTree.fromstring(parts.read("xl/workbook.xml")).iter(main + "sheet")]
        texts = {text.text for text in ElementTree.fromstring(parts.read("xl/sharedStrings.xml")).iter(main + "t")}
        for name in parts.namelist():
            if name.startswith("xl/worksheets/sheet"):
                cells = ElementTree.fromstring(parts.read(name)).iter(main + "c")
                numbers |= {float(cell.find(main + "v").text) for cell in cells if cell.get("t") != "s"}
    assert len(names) == len({name.lower() for name in names}) >= 9 and all(len(name) <= 31 for name in names), names
    assert {"met", "missed", "error [V]", "divider top tolerance"} <= texts
    for channel in board.budget().channels:
        assert all(any(abs(number - point.error) <= 1e-14 * point.error for number in numbers) for point in channel.points)


def test_the_page_of_the_docs_says_what_comes(monkeypatch):
    monkeypatch.chdir(SOURCE)
    assert doctest.testfile(str(SOURCE / "docs/python.md"), module_relative=False, optionflags=doctest.ELLIPSIS).failed == 0


def test_calls_run_beside_each_other_and_can_be_interrupted(board):
    results = []
    threads = [threading.Thread(target=lambda: results.append(board.budget("coolant_flow").to_dict())) for _ in range(4)]
    for each in threads:
        each.start()
    for each in threads:
        each.join()
    assert all(each == results[0] for each in results) and len(results) == 4
    signal.signal(signal.SIGALRM, signal.default_int_handler)
    signal.setitimer(signal.ITIMER_REAL, 0.3)
    with pytest.raises(KeyboardInterrupt):
        board.simulate("pack_voltage", samples=200_000_000)
