# SPDX-License-Identifier: Apache-2.0
"""Error budgets for analog channels, and their proof on the bench.

    import tamlo

    board = tamlo.load("board.toml")
    budget = board.budget("pack_voltage")
    print(budget.channels[0].verdict, budget.channels[0].worst_place.error)

A board comes from files (load), a TOML text (loads) or a dictionary (describe); it never changes, and changed() makes
another one. Each call answers what the command of the tool of that name does, with the same figures. Values are texts
with a unit, such as "2.5 V", or numbers in the unit of the channel.
"""
import json
import os
import pathlib
import tempfile

from . import _tamlo
from ._tamlo import Error
from ._fields import FIELDS

__all__ = ["Board", "Error", "Result", "describe", "load", "loads"]
__version__ = _tamlo.version
Error.__module__ = "tamlo"


class Result:
    """A result, or a part of one: its fields are attributes, as docs/commands.md and help() name them."""

    __slots__ = ("_fields", "_path", "files", "toml")

    def __init__(self, fields, path):
        self._fields, self._path = fields, path

    def __getattr__(self, name):
        if name.startswith("_") or name not in self._fields:
            raise AttributeError(f"{self._path} has no field {name!r}; it has {', '.join(self._fields)}")
        return _wrapped(self._fields[name], f"{self._path}.{name}")

    def __dir__(self):
        return [*self._fields, "about", "columns", "to_dict"]

    def __repr__(self):
        return f"<tamlo {self._path}: {', '.join(self._fields)}>"

    def to_dict(self):
        """Returns the fields as dictionaries, lists, numbers and texts."""
        return self._fields

    def columns(self, name):
        """Returns a list of rows as columns, for a data frame: pandas.DataFrame(result.columns("points"))."""
        rows = self._fields[name]
        return {key: [row.get(key) for row in rows] for key in (rows[0] if rows else {}) if not isinstance(rows[0][key], (dict, list))}

    def about(self, name=None):
        """Returns what a field means, with its unit; of all fields without a name."""
        if name is None:
            return {field: self.about(field) for field in self._fields}
        return FIELDS.get(f"{self._path}.{name}", "")


def _wrapped(value, path):
    if isinstance(value, dict):
        return Result(value, path)
    if isinstance(value, list) and value and isinstance(value[0], dict):
        return [Result(each, path) for each in value]
    return value


def _result(text):
    fields = json.loads(text)
    return Result(fields, fields["command"])


def _toml(value):
    """A value as TOML."""
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, (int, float)):
        return repr(value)
    if isinstance(value, str):
        return json.dumps(value, ensure_ascii=False).replace("\x7f", "\\u007f")
    if isinstance(value, dict):
        return "{ " + ", ".join(f"{_toml(str(key))} = {_toml(each)}" for key, each in value.items()) + " }"
    if isinstance(value, (list, tuple)):
        return "[" + ", ".join(map(_toml, value)) + "]"
    raise TypeError(f"a board has texts, numbers, lists and dictionaries: {value!r}")


def _names(channel):
    return [] if channel is None else [channel] if isinstance(channel, str) else list(channel)


def _amount(value):
    return value if value is None or isinstance(value, str) else float(value)


def _amounts(values):
    return [_amount(each) for each in ([values] if isinstance(values, (str, int, float)) else values)]


class Board:
    """A described board. Made by load(), loads() and describe()."""

    def __init__(self, files, set=None, _folder=None):
        if set is not None and not hasattr(set, "keys"):
            raise TypeError('set has keys and their values: {"channel.pack_voltage.average": 64}')
        self._files = [os.fspath(file) for file in files]
        self._set, self._folder = dict(set or {}), _folder
        self._board = _tamlo.Board(self._files, [f"{key}={value if isinstance(value, str) else _toml(value)}" for key, value in self._set.items()])

    def __repr__(self):
        return f"<tamlo board {self.title!r}: {', '.join(self.channels)}>"

    @property
    def title(self):
        return self._board.title

    @property
    def channels(self):
        """Names of the channels."""
        return self._board.channels

    @property
    def quantities(self):
        """Names of the quantities that are computed from several channels."""
        return self._board.quantities

    def unit(self, name):
        """Returns the unit of a channel or a quantity."""
        return self._board.unit(name)

    def changed(self, set):
        """Returns the board with other values of keys: changed({"channel.pack_voltage.average": 64})."""
        return Board(self._files, {**self._set, **set}, self._folder)

    def check(self, channel=None):
        """Is the board sound? Findings, each with a remedy."""
        return _result(self._board.check(_names(channel)))

    def channel(self, channel=None):
        """The effective settings of channels: code width, range used, rates, noise, delay."""
        return _result(self._board.settings(_names(channel)))

    def budget(self, channel=None, at=(), coverage=0.95, trials=None, seed=1, advice=False):
        """How wrong can readings be, at these places of the span? `trials` is a number of trials, or "auto"; `advice` also tries what would help."""
        trials = 0 if trials == "auto" else trials
        return _result(self._board.budget(_names(channel), _amounts(at), coverage, trials, seed, advice))

    def explore(self, choices, channel=None, threads=1):
        """Which settings and parts meet the targets, and what do they cost? `choices` is a file, or a dictionary like one."""
        if not isinstance(choices, dict):
            return _result(self._board.explore(os.fspath(choices), _names(channel), threads))
        with tempfile.TemporaryDirectory() as folder:
            path = pathlib.Path(folder, "choices.toml")
            path.write_text(_document({"format": 1, **choices}), encoding="utf-8")
            return _result(self._board.explore(str(path), _names(channel), threads))

    def _readings(self, readings, channel, codes):
        if isinstance(readings, (str, os.PathLike)):
            return self._board.readings(os.fspath(readings), _names(channel), codes)
        import numpy
        if hasattr(readings, "keys"):
            codes = codes or "code" in readings
            readings = readings["meter"], readings["code" if codes else "reading"]
        return self._board.readings(tuple(numpy.ascontiguousarray(each, dtype=float) for each in readings), _names(channel), codes)

    def compare(self, readings, channel=None, meter="", coverage=0.95, codes=False):
        """Do readings agree with a meter? `readings` is a file, or {"meter": array, "reading" or "code": array}."""
        return _result(self._board.compare(self._readings(readings, channel, codes), _names(channel), meter, coverage))

    def calibrate(self, readings, channel=None, meter="", model="best", order=2, coverage=0.95, codes=False):
        """The correction that readings beside a meter determine; result.toml is its overlay of the board."""
        text, overlay = self._board.calibrate(self._readings(readings, channel, codes), _names(channel), meter, model, order, coverage)
        result = _result(text)
        result.toml = overlay
        return result

    def record(self, samples, channel, input="steady", rate=0.0, data="codes", low=None, high=None, coverage=0.95):
        """Does a captured record behave as described? `samples` are codes or readings; an array of float64 is not copied."""
        import numpy
        return _result(self._board.record(numpy.ascontiguousarray(samples, dtype=float), channel, input, rate, data == "readings",
                                          _amount(low), _amount(high), coverage))

    def simulate(self, channel, input="steady", low=None, high=None, samples=4096, unit=1, seed=1, frequency=0.0, rate=0.0, data="codes"):
        """Samples of a virtual unit of the board (0: the nominal one), as an array of codes or readings."""
        return self._board.simulate(channel, input, _amount(low), _amount(high), samples, unit, seed, frequency, rate, data == "readings")

    def firmware(self, channel=None):
        """Integer code for channels; result.files has the text of each file by its name."""
        text, files = self._board.firmware(_names(channel))
        result = _result(text)
        result.files = files
        return result


def _document(tables):
    return "".join(f"{_toml(str(key))} = {_toml(value)}\n" for key, value in tables.items())


def load(*files, set=None):
    """Returns the board of TOML files, a later one over an earlier one; `set` has single keys over all of them."""
    return Board(files, set)


def loads(text, set=None):
    """Returns the board that a TOML text describes."""
    folder = tempfile.TemporaryDirectory(prefix="tamlo-")
    path = pathlib.Path(folder.name, "board.toml")
    path.write_text(text, encoding="utf-8")
    return Board([path], set, folder)


def describe(tables, set=None):
    """Returns the board that a dictionary describes, as a file would: {"channel": {"v": {"span": "0..10 V"}}}."""
    return loads(_document({"format": 1, **tables}), set)
