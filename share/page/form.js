// The board as a form, made from the schema of its keys.
const make = (name, properties, ...inside) => {
  const node = Object.assign(document.createElement(name), properties || {});
  for (const [key, value] of Object.entries((properties || {}).data || {})) node.dataset[key] = value;
  node.append(...inside);
  return node;
};

const bare = (name) => /^[A-Za-z0-9_-]+$/.test(name) ? name : JSON.stringify(name);
const below = (path, name) => path === "" ? bare(name) : `${path}.${bare(name)}`;

// A value as TOML has it in one line.
function toml_of(value) {
  if (value !== null && value.toml !== undefined) return value.toml;
  if (Array.isArray(value)) return `[${value.map(toml_of).join(", ")}]`;
  if (value !== null && typeof value === "object")
    return `{ ${Object.entries(value).map(([key, inner]) => `${bare(key)} = ${toml_of(inner)}`).join(", ")} }`;
  return JSON.stringify(value);
}

// Of several forms the one that a value has.
function form_for(schema, value) {
  if (!schema.anyOf) return schema;
  const forms = schema.anyOf.map((form) => form_for(form, value));
  const type = Array.isArray(value) ? "array" : typeof value === "object" ? "object" : "other";
  const like = forms.filter((form) => type === "other" ? !["array", "object"].includes(form.type) : form.type === type);
  const fits = (form) => {
    if (type !== "object") return 0;
    const own = form.properties || {};
    if (own.kind && own.kind.const && own.kind.const !== value.kind) return -1;
    return Object.keys(value).filter((key) => key in own).length - (form.required || []).filter((key) => !(key in value)).length;
  };
  return like.length ? like.reduce((best, form) => fits(form) > fits(best) ? form : best) : forms[0];
}

// Of a filter, its forms by their kinds.
const forms_by_kind = (schema) => (schema.anyOf || []).flatMap((form) => form.anyOf ? forms_by_kind(form)
  : form.properties && form.properties.kind && form.properties.kind.const ? [form] : []);

const example_of = (form) => {
  const found = /\{[^\n]*\}/.exec(form.description || "");
  return found ? found[0].replaceAll("`", "") : null;
};

const words_of = (schema) => (schema.description || "").split("\n");

// Steps of a number in a text: of its last digit, or along the series of resistors.
const e24 = [1, 1.1, 1.2, 1.3, 1.5, 1.6, 1.8, 2, 2.2, 2.4, 2.7, 3, 3.3, 3.6, 3.9, 4.3, 4.7, 5.1, 5.6, 6.2, 6.8, 7.5, 8.2, 9.1];
const e96 = [...Array(96).keys()].map((i) => Math.round(100 * 10 ** (i / 96)) / 100);
function along_series(value, direction, series) {
  const decade = 10 ** Math.floor(Math.log10(value) + 1e-9);
  const all = [0.1, 1, 10].flatMap((power) => series.map((n) => n * power * decade));
  const next = direction > 0 ? all.find((n) => n > value * 1.0001) : all.filter((n) => n < value * 0.9999).pop();
  return next === undefined ? value : Number(next.toPrecision(4));
}
function number_at(text, caret) {
  const found = [...text.matchAll(/\d+(?:\.\d+)?/g)];
  return found.find((one) => caret >= one.index && caret <= one.index + one[0].length) || found[0];
}
function stepped(text, caret, direction, resistor) {
  const found = number_at(text, caret);
  if (!found) return null;
  const decimals = (found[0].split(".")[1] || "").length;
  const first = found.index === text.search(/\d/);
  const tight = /±\s*(0\.\d+|1)\s*%/.test(text);
  const next = resistor && first ? String(along_series(Number(found[0]), direction, tight ? e96 : e24))
    : (Number(found[0]) + direction * 10 ** -decimals).toFixed(decimals);
  if (Number(next) < 0) return null;
  return { text: text.slice(0, found.index) + next + text.slice(found.index + found[0].length), caret: found.index + next.length };
}

// `take(key, value)`: the user gave the key another value; `known`: whether a key is changed.
class Form {
  constructor(schema, take, is_changed) { Object.assign(this, { schema, take, is_changed }); }

  field(path, name, schema, value) {
    const form = form_for(schema, value), [meaning, allowed] = words_of(schema);
    const row = make("div", { className: "field", data: { key: path } });
    const id = `field-${path}`;
    row.classList.toggle("changed", this.is_changed(path));
    const label = make("label", { htmlFor: id, textContent: name, title: meaning });
    const named = /the name of an? \[(\w+)\]/.exec(allowed || meaning);
    const choices = form.enum || (form.type === "boolean" ? [true, false] : named && Object.keys(this.board[named[1]] || {}));
    let input;
    if (choices) {
      input = make("select", { id });
      if (value === undefined) input.append(make("option", { value: "", textContent: form.default === undefined ? "not said" : `${form.default} (default)` }));
      for (const choice of choices) input.append(make("option", { value: JSON.stringify(choice), textContent: String(choice), selected: choice === value }));
      input.addEventListener("change", () => input.value !== "" && this.take(path, JSON.parse(input.value)));
    } else {
      const text = value === undefined ? "" : typeof value === "object" ? toml_of(value) : String(value);
      input = make("input", { id, value: text, autocomplete: "off", spellcheck: false,
        placeholder: schema.default === undefined ? "not said" : `${typeof schema.default === "object" ? toml_of(schema.default) : schema.default} (default)` });
      const given = () => {
        const numeric = form.type === "integer" || form.type === "number" || (typeof value === "number" && Array.isArray(form.type));
        return typeof value === "object" ? { toml: input.value } : numeric && input.value.trim() !== "" && !isNaN(input.value) ? Number(input.value) : input.value;
      };
      const send = () => { if (input.value !== (input.dataset.sent ?? text)) { input.dataset.sent = input.value; this.take(path, given()); } };
      input.addEventListener("input", send);
      const resistor = / ohm\b/.test(allowed || "");
      input.addEventListener("keydown", (event) => {
        const direction = { ArrowUp: 1, ArrowDown: -1 }[event.key];
        const next = direction && stepped(input.value, input.selectionStart, direction, resistor);
        if (!next) return;
        event.preventDefault();
        input.value = next.text;
        input.setSelectionRange(next.caret, next.caret);
        send();
      });
      input.addEventListener("focus", () => this.slide(row, input, resistor, send));
    }
    input.setAttribute("aria-describedby", `${id}-says`);
    row.append(label, input, make("div", { className: "says", id: `${id}-says` }));
    if (allowed) row.append(make("div", { className: "allowed", textContent: `${allowed}${meaning ? ": " + meaning : ""}` }));
    return row;
  }

  // A decade about the number, of which the middle is what it was.
  slide(row, input, resistor, send) {
    const found = number_at(input.value, 0);
    if (row.querySelector("input[type=range]") || !found || !(Number(found[0]) > 0)) return;
    const middle = Number(found[0]), whole = /^\d+$/.test(input.value);
    const slider = make("input", { type: "range", min: -0.5, max: 0.5, step: 0.01, value: 0, tabIndex: -1 });
    slider.setAttribute("aria-label", `${row.dataset.key} over a decade`);
    slider.addEventListener("input", () => {
      let value = Number((middle * 10 ** Number(slider.value)).toPrecision(3));
      if (resistor) value = along_series(value * 0.998, 1, e24);
      if (whole) value = Math.max(1, Math.round(value));
      const now = number_at(input.value, 0);
      input.value = input.value.slice(0, now.index) + value + input.value.slice(now.index + now[0].length);
      send();
    });
    row.append(slider);
  }

  // Tables in a list: each can be moved and taken away, and one of any kind can be added.
  list(path, name, schema, values) {
    const box = make("fieldset", { className: "list" }, make("legend", { textContent: name, title: words_of(schema)[0] }));
    const whole = (next) => this.take(path, next);
    values.forEach((value, i) => {
      const keys = Object.keys(value), single = form_for(schema.items, value);
      const item = make("div", { className: "item" });
      const button = (text, title, act, off) => {
        const node = make("button", { type: "button", textContent: text, title, disabled: off });
        node.setAttribute("aria-label", `${title}: ${name} ${i + 1}`);
        node.addEventListener("click", act);
        return node;
      };
      const swap = (a, b) => { const next = [...values]; [next[a], next[b]] = [next[b], next[a]]; whole(next); };
      item.append(make("div", { className: "buttons" },
        make("b", { textContent: keys.length === 1 && typeof value[keys[0]] === "object" ? keys[0] : value.kind || `${i + 1}` }),
        button("\u2191", "earlier", () => swap(i, i - 1), i === 0),
        button("\u2193", "later", () => swap(i, i + 1), i === values.length - 1),
        button("\u00d7", "take away", () => whole(values.filter((_, k) => k !== i)))));
      const at = `${path}[${i}]`;
      const one = keys.length === 1 && typeof value[keys[0]] === "object" && (single.properties || {})[keys[0]];
      if (one) item.append(...this.table(below(at, keys[0]), one, value[keys[0]]));
      else item.append(...this.table(at, schema.items, value));
      box.append(item);
    });
    const kinds = this.kinds(schema.items);
    if (kinds.length) {
      const add = make("select", {}, make("option", { value: "", textContent: "add ..." }), ...kinds.map(([kind], i) => make("option", { value: i, textContent: kind })));
      add.setAttribute("aria-label", `add to ${name}`);
      add.addEventListener("change", () => whole([...values, kinds[add.value][1]]));
      box.append(add);
    }
    return box;
  }

  // What can be added: its name, and an example that is sound by itself.
  kinds(schema) {
    const kinds = forms_by_kind(schema);
    if (kinds.length) return kinds.flatMap((form) => example_of(form) ? [[form.properties.kind.const, { toml: example_of(form) }]] : []);
    return Object.entries(schema.properties || {}).flatMap(([name, form]) =>
      [form, ...(form.anyOf || [])].map(example_of).filter(Boolean).slice(0, 1).map((text) => [name, { toml: text }]));
  }

  // Another kind of a filter is another filter.
  kind(path, schema, value) {
    const row = this.field(below(path, "kind"), "kind", { enum: forms_by_kind(schema).map((form) => form.properties.kind.const) }, value.kind);
    const select = row.querySelector("select"), own = this.kinds(schema);
    select.replaceWith(Object.assign(select.cloneNode(true), { onchange: (event) => {
      const found = own.find(([kind]) => kind === JSON.parse(event.target.value));
      if (found) this.take(path, found[1]);
    } }));
    return row;
  }

  // The keys that a table has, and a list of those that it may have.
  table(path, schema, value) {
    const form = form_for(schema, value), own = form.properties || {};
    const rows = [];
    for (const name of Object.keys(own)) {
      if (name in value) rows.push(name === "kind" && forms_by_kind(schema).length ? this.kind(path, schema, value) : this.node(below(path, name), name, own[name], value[name]));
    }
    const absent = Object.keys(own).filter((name) => !(name in value) && name !== "use" && name !== "kind");
    if (absent.length) {
      const more = make("select", { className: "more" }, make("option", { value: "", textContent: "more keys ..." }),
        ...absent.map((name) => make("option", { value: name, textContent: name, title: words_of(own[name])[0] })));
      more.setAttribute("aria-label", `more keys of ${path}`);
      more.addEventListener("change", () => {
        const name = more.value, inner = form_for(own[name], undefined);
        // Of a sensor that is not there, one of its kind: an example that is sound by itself.
        const example = (own[name].description || "").split("\n").find((text) => text.startsWith(`${name} = {`));
        if (!Object.keys(value).length && example) { this.take(path, { toml: `{ ${example} }` }); return; }
        const node = inner.type === "object" ? make("fieldset", {}, make("legend", { textContent: name }), ...this.table(below(path, name), own[name], {}))
          : inner.type === "array" && (inner.items.type === "object" || inner.items.anyOf) ? this.list(below(path, name), name, inner, [])
            : this.field(below(path, name), name, own[name], undefined);
        more.before(node);
        more.querySelector(`option[value="${name}"]`).remove();
        more.value = "";
        const first = node.querySelector("input, select");
        if (first) first.focus();
      });
      rows.push(more);
    }
    return rows;
  }

  node(path, name, schema, value) {
    const form = form_for(schema, value);
    const tables = Array.isArray(value) && value.every((one) => one !== null && typeof one === "object" && !Array.isArray(one));
    if (tables && form.items && (form.items.type === "object" || form.items.anyOf)) return this.list(path, name, form, value);
    if (value !== null && typeof value === "object" && !Array.isArray(value) && form.type === "object")
      return make("fieldset", {}, make("legend", { textContent: name, title: words_of(schema)[0] }), ...this.table(path, schema, value));
    return this.field(path, name, schema, value);
  }

  // A section for each table of the file; entries have names of the user's own.
  sections(board) {
    const result = [];
    this.board = board;
    const order = ["channel", "quantity", "converter", "reference", "conditions"];
    for (const section of [...order, ...Object.keys(board).filter((name) => !order.includes(name))]) {
      const value = board[section], schema = this.schema.properties[section];
      if (!schema || value === undefined || typeof value !== "object") continue;
      const entries = schema.additionalProperties && schema.additionalProperties.properties
        ? Object.entries(value).map(([name, inner]) => [name, below(section, name), schema.additionalProperties, inner])
        : [["", section, schema, value]];
      for (const [name, path, inner, own] of entries) {
        result.push({ section, name, path, node: make("details", { className: "section", data: { section: path } },
          make("summary", {}, make("b", { textContent: section }), name ? ` ${name}` : ""), ...this.table(path, inner, own)) });
      }
    }
    return result;
  }
}
