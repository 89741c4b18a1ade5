# SPDX-License-Identifier: Apache-2.0
"""What each field of each result means, and type stubs, from the schemas of the results: make_fields.py SCHEMAS PACKAGE."""
import json
import pathlib
import sys

NAMES = {"string": "str", "number": "float", "integer": "int", "boolean": "bool"}


def walk(schema, path, fields, classes):
    """Adds the fields of an object, and its class for the stubs; returns the name of that class."""
    name = "".join(part.title().replace("_", "") for part in path.split("."))
    lines = []
    for key, of in schema.get("properties", {}).items():
        here = f"{path}.{key}"
        if "description" in of:
            fields[here] = of["description"]
        kinds = of.get("type", [])
        kinds = [kinds] if isinstance(kinds, str) else kinds
        text = NAMES.get(next((kind for kind in kinds if kind in NAMES), ""), "Any")
        if "object" in kinds:
            text = walk(of, here, fields, classes)
        elif "array" in kinds:
            part = of.get("items", {})
            text = f"list[{walk(part, here, fields, classes) if part.get('type') == 'object' else NAMES.get(part.get('type'), 'Any')}]"
        elif "const" in of or "enum" in of:
            text = "str" if isinstance(of.get("const", ""), str) else "int"
        lines.append(f"    {key}: {text}{' | None' if 'null' in kinds else ''}")
    classes[name] = lines
    return name


def main(schemas, package):
    fields, classes = {}, {}
    for file in sorted(pathlib.Path(schemas).glob("*.json")):
        if file.stem not in ("board", "watch", "measure", "tune"):
            walk(json.loads(file.read_text(encoding="utf-8")), file.stem, fields, classes)
    out = pathlib.Path(package)
    (out / "_fields.py").write_text(f'"""What each field means; made from the schemas of the results."""\nFIELDS = {json.dumps(fields, indent=1, ensure_ascii=False)}\n', encoding="utf-8")
    stub = ["from typing import Any", ""]
    for name, lines in classes.items():
        stub += [f"class {name}:", *(lines or ["    ..."]), "    def to_dict(self) -> dict[str, Any]: ...",
                 "    def columns(self, name: str) -> dict[str, list[Any]]: ...", "    def about(self, name: str | None = ...) -> Any: ...", ""]
    (out / "_results.pyi").write_text("\n".join(stub), encoding="utf-8")


main(*sys.argv[1:3])
