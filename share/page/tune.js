const at = (id) => document.getElementById(id);
let form = null, changes = [], past = [], future = [], view = "", last = null, first = null, kept = null;
let started = {}, asked = 0, timer = 0, idle = 0;

async function ask(what, settings, channel) {
  const reply = await fetch(what, { method: "POST", body: JSON.stringify({ settings, channel: channel ?? view }) });
  if (!reply.ok) throw new Error(reply.status === 413 ? "more changes than the tool takes: 1 MB" : `the tool answers ${reply.status}`);
  return reply.json();
}
const settings_of = (list) => list.map(({ key, value }) => `${key}=${value}`);
const in_text = (value) => value !== null && typeof value === "object" && value.toml === undefined ? toml_of(value)
  : value && value.toml !== undefined ? value.toml : typeof value === "string" ? JSON.stringify(value) : String(value);

// The value at a key of the board, such as it is now.
function value_at(board, key) {
  let node = board;
  for (const [, name, quoted, index] of key.matchAll(/([^.["]+)|"((?:[^"\\]|\\.)*)"|\[(\d+)\]/g)) {
    if (node === null || node === undefined) return undefined;
    node = node[index !== undefined ? Number(index) : name ?? JSON.parse(`"${quoted}"`)];
  }
  return node;
}

// A change replaces those of the same key and of all that lies below it.
function change(key, value) { change_all([[key, value]]); }
function change_all(list) {
  past.push(changes);
  future = [];
  for (const [key, value] of list) put(key, value);
  soon();
}
function put(key, value) {
  const text = in_text(value);
  const inside = (other) => other === key || other.startsWith(`${key}.`) || other.startsWith(`${key}[`);
  const same = JSON.stringify(value_at(first.board, key));
  const is_back = typeof value !== "object" && same === JSON.stringify(value) && !changes.some((one) => key.startsWith(`${one.key}[`) || key.startsWith(`${one.key}.`));
  changes = changes.filter((one) => !inside(one.key));
  if (!is_back) changes = [...changes, { key, value: text }];
}

function soon() {
  at("undo").disabled = !past.length;
  at("redo").disabled = !future.length;
  at("write").disabled = !changes.length;
  clearTimeout(timer);
  clearTimeout(idle);
  timer = setTimeout(evaluate, 0);
}

function go(from, to) {
  if (!from.length) return;
  to.push(changes);
  changes = from.pop();
 
  soon();
  form_is_old = true;
}
let form_is_old = false;

async function evaluate() {
  const number = ++asked, began = performance.now(), now = changes;
  at("status").textContent = "computing";
  let reply;
  try {
    reply = await ask("evaluate", settings_of(now));
  } catch (error) {
    at("status").textContent = error instanceof TypeError ? "the tool has ended" : error.message;
    return;
  }
  if (number !== asked) return;
  if (reply.superseded) { timer = setTimeout(evaluate, 100); return; }
  if (reply.problems) { wrong(reply.problems); return; }
  wrong([]);
  last = reply;
  if (!first) first = { ...reply, ...started };
  view = reply.result.channel || view;
  show();
  at("status").textContent = `${Math.round(performance.now() - began)} ms`;
  idle = setTimeout(think, 500);
}

// The tool's own message, at its field where there is one.
function wrong(problems) {
  at("figures").classList.toggle("stale", problems.length > 0);
  document.querySelectorAll(".field.wrong").forEach((row) => { row.classList.remove("wrong"); row.querySelector(".says").textContent = ""; });
  const rest = [];
  for (const { key, text, whole } of problems) {
    const row = [...document.querySelectorAll(".field")].find((one) => one.dataset.key.replaceAll("\"", "") === key);  // messages have names without quotes
    if (row) {
      row.classList.add("wrong");
      row.querySelector(".says").textContent = text;
    }
    rest.push(make("p", { className: "bad", textContent: key && key.includes(".") ? `${key}: ${text}` : whole }));
  }
  at("problems").hidden = !problems.length;
  at("problems").replaceChildren(...rest);
  if (problems.length) { at("status").textContent = "the last good figures"; show_changes(); }
}

const line = ({ text, tone }) => make("p", { className: tone, textContent: text });
function table(of, after) {
  const cell = (name, text, right) => {
    const node = make(name, { className: right ? "r" : "" });
    if (/^#+$/.test(text)) { const bar = make("i", { className: "bar" }); bar.style.width = `${text.length}ch`; node.append(bar); } else node.textContent = text;
    return node;
  };
  const body = make("table", {}, ...(of.title ? [make("caption", { textContent: of.title })] : []),
    make("thead", {}, make("tr", {}, ...of.columns.map((c) => cell("th", c.heading, c.right)))),
    make("tbody", {}, ...of.rows.map((row) => make("tr", {}, ...row.map((text, i) => cell("td", text, (of.columns[i] || {}).right))))));
  return make("div", { className: "scroll" }, body, ...(after || []));
}
const report = (of) => [...of.verdict.map(line), ...of.tables.map((one) => table(one)), ...of.remarks.map(line), ...of.legend.map((one) => make("p", { className: "faint", textContent: one.text }))];

const budget_of = (reply, name) => reply.result.budget.channels.find((one) => one.channel === name)
  || reply.result.budget.quantities.find((one) => one.quantity === name);
const part_used = (point) => point.limit ? point.error / point.limit : point.error;
const worst_of = (budget) => budget && (budget.worst_place || budget.points.reduce((worst, point) => part_used(point) > part_used(worst) ? point : worst));
const use_of = (budget) => { const worst = worst_of(budget); return worst && worst.limit ? worst.error / worst.limit : null; };

function show_verdicts() {
  at("verdicts").replaceChildren(...last.headlines.map(({ name, line: said }) => {
    const use = name ? use_of(budget_of(last, name)) : null;
    const button = make(name ? "button" : "div", { className: said.tone, textContent: said.text });
    if (name) {
      if (name === view) button.setAttribute("aria-current", "true");
      button.addEventListener("click", () => { view = name; form_is_old = true; evaluate(); });
    }
    const bar = make("span", { className: use === null ? "" : "use", title: use === null ? "" : `${(100 * use).toFixed(0)} % of what is allowed` });
    if (use !== null) {
      const part = make("i", { className: use > 1 ? "bad" : "" });
      part.style.width = `${Math.min(100, 100 * use)}%`;
      bar.append(part);
    }
    return make("li", {}, button, bar);
  }));
}

function show_findings() {
  const tones = { error: "bad", warning: "doubtful", advice: "" };
  const found = last.result.check.findings;
  at("findings").hidden = !found.length;
  at("findings").replaceChildren(...found.map((one) => {
    const row = make("div", { className: "finding" },
      make("b", { className: tones[one.severity], textContent: `${one.severity}: ` }), `${one.channel ? one.channel + ": " : ""}${one.found}; ${one.why}`);
    if (one.remedy) row.append(make("p", {}, `remedy: ${one.remedy} `));
    if (one.changes.length) {
      const apply = make("button", { type: "button", textContent: "Apply", title: one.changes.join(", ") });
      apply.setAttribute("aria-label", `apply: ${one.remedy}`);
      apply.addEventListener("click", () => {
        form_is_old = true;
        change_all(one.changes.map((setting) => [setting.slice(0, setting.indexOf("=")), { toml: setting.slice(setting.indexOf("=") + 1) }]));
      });
      row.lastChild.append(apply);
    }
    return row;
  }));
}

function show_charts() {
  const { span, response, unit, channel } = last.result;
  const by = (key, points = span) => points.map((p) => [p.at, p[key]]);
  const before = first.of[channel] && first.of[channel] !== last.result ? first.of[channel].span : [];
  at("span").replaceChildren(...(span.length ? [chart_of({ title: "error over the span", panels: [{
    x: { label: `${channel} [${unit}]` }, y: { label: `error, plus or minus [${unit === "degC" ? "K" : unit}]`, low: 0 },
    series: [...(changes.length && before.length ? [{ name: "of the file", look: "before", points: by("error", before) }] : []),
      ...(span[0].limit === null ? [] : [{ name: "allowed", look: "limit", points: by("limit") }]),
      { name: "worst case", look: "second", points: by("worst_case") },
      { name: "after two-point adjustment", look: "third", points: by("two_point") },
      { name: "now", look: "now", points: by("error") }] }] }, innerWidth < 760 ? 430 : 860)] : []));
  const filters = span.length && response.passed.some((p) => p.digital < 0.999);
  at("response").hidden = !filters;
  if (!filters) return;
  const decibels = (part) => Math.max(-120, 20 * Math.log10(Math.max(part, 1e-6)));
  const mains = last.board.conditions && parseFloat(last.board.conditions.mains);
  const answers = [[0, 0], ...response.answers.map((v, i) => [(i + 1) * response.period, v])];
  at("response").replaceChildren(make("div", {},
    chart_of({ title: "what passes", panels: [{ x: { label: response.rate_known ? "frequency [Hz]" : "frequency [of the rate]" }, y: { label: "gain [dB]", low: -100, high: 5 },
      marks: mains > 0 && response.rate_known ? [{ at: mains, name: "mains" }] : [],
      series: [{ name: "with what is before them", look: "second", points: response.passed.map((p) => [p.frequency, decibels(p.whole)]) },
        { name: "average and filter", look: "now", points: response.passed.map((p) => [p.frequency, decibels(p.digital)]) }] }] }, 430),
    chart_of({ title: "readings after a step", panels: [{ x: { label: response.rate_known ? "time [s]" : "conversions", low: 0 }, y: { label: "reading, of the step", low: 0 },
      series: [{ name: "readings", look: "now", shape: "steps", points: answers }, { name: "", look: "now", shape: "dots", points: answers.length < 60 ? answers : [] }] }] }, 430)));
}

// What was changed, with what each alone does to the channel in view; and states beside each other.
const effects = new Map();
function show_changes() {
  at("changes").hidden = !changes.length && !kept;
  const row = ({ key, value }, i) => {
    const back = make("button", { type: "button", textContent: "Put back" });
    back.setAttribute("aria-label", `put back ${key}`);
    back.addEventListener("click", () => { past.push(changes); future = []; changes = changes.filter((_, k) => k !== i); form_is_old = true; soon(); });
    const from = value_at(first.board, key), alone = effects.get(`${view}|${key}=${value}`);
    return make("tr", {}, make("td", {}, make("code", { textContent: key })), make("td", { textContent: from === undefined ? "not said" : typeof from === "object" ? toml_of(from) : String(from) }),
      make("td", { textContent: value.startsWith('"') ? JSON.parse(value) : value }), make("td", { className: "r", textContent: alone ?? "" }), make("td", {}, back));
  };
  const parts = [];
  if (changes.length) parts.push(make("h2", { textContent: "Changes against the file" }), make("div", { className: "scroll" },
    make("table", {}, make("thead", {}, make("tr", {}, ...["key", "of the file", "now", `alone: error of ${view}`, ""].map((text) => make("th", { textContent: text })))), make("tbody", {}, ...changes.map(row)))));
  if (kept && last) {
    const states = [["of the file", first], ["kept", kept], ["now", last]];
    const figure = (reply, name) => { const worst = worst_of(budget_of(reply, name)), use = use_of(budget_of(reply, name));
      return worst ? `±${Number(worst.error.toPrecision(3))}${use === null ? "" : `, ${(100 * use).toFixed(0)} % of the target`}` : "is not there"; };
    parts.push(make("h2", { textContent: "Side by side" }), make("div", { className: "scroll" }, make("table", {},
      make("thead", {}, make("tr", {}, make("th", { textContent: "worst error" }), ...states.map(([name]) => make("th", { className: "r", textContent: name })))),
      make("tbody", {}, ...last.headlines.filter(({ name }) => name).map(({ name }) => make("tr", {}, make("td", { textContent: name }), ...states.map(([, reply]) => make("td", { className: "r", textContent: figure(reply, name) }))))))));
    const take = make("button", { type: "button", textContent: "Go back to the kept state" });
    take.addEventListener("click", () => { past.push(changes); future = []; changes = kept.changes; form_is_old = true; soon(); });
    parts.push(take);
  }
  at("changes").replaceChildren(...parts);
}

function show_form() {
  const focused = document.activeElement && document.activeElement.id;
  const caret = focused && document.activeElement.selectionStart;
  const typing = document.activeElement && at("sections").contains(document.activeElement) && !form_is_old;
  const shape = JSON.stringify(last.board, (key, value) => value !== null && typeof value === "object" ? value : 0);
  if (shape !== show_form.shape || form_is_old || !typing) {
    const scroll = at("form").scrollTop;
    // Those that the user opened stay open; that of the channel in view goes with it.
    const open = new Set([...document.querySelectorAll("details.section[open]:not(.in-view)")].map((one) => one.dataset.section));
    const moved = show_form.view !== view;
    form = new Form(first.schema, change, (key) => changes.some((one) => one.key === key));
    const sections = form.sections(last.board);
    for (const { node, name, section, path } of sections) {
      const is_view = (section === "channel" || section === "quantity") && name === view;
      node.classList.toggle("in-view", is_view);
      node.open = open.has(path) || is_view;
    }
    at("sections").replaceChildren(...sections.map(({ node }) => node));
    at("form").scrollTop = scroll;
    const seen = document.querySelector("details.section.in-view");
    if (moved && seen && at("form").scrollHeight > at("form").clientHeight) at("form").scrollTop = seen.offsetTop - at("form").offsetTop - 6;
    show_form.view = view;
    show_form.shape = shape;
    form_is_old = false;
    if (focused && at(focused)) { at(focused).focus(); if (caret !== null && at(focused).setSelectionRange) try { at(focused).setSelectionRange(caret, caret); } catch { /* a list has no caret */ } }
    find();
  }
  for (const row of document.querySelectorAll(".field")) row.classList.toggle("changed", changes.some((one) => one.key === row.dataset.key));
}

function find() {
  const word = at("find").value.trim().toLowerCase();
  for (const section of document.querySelectorAll("details.section")) {
    let any = false;
    for (const row of section.querySelectorAll(".field")) {
      const fits = !word || row.textContent.toLowerCase().includes(word) || row.dataset.key.toLowerCase().includes(word);
      row.hidden = !fits;
      any = any || fits;
    }
    section.hidden = word && !any;
    if (word && any) section.open = true;
  }
}

function show() {
  first.of = first.of || {};
  if (!changes.length) first.of[last.result.channel] = last.result;
  show_verdicts();
  show_findings();
  at("in-view").textContent = view;
  const budget = last.budget[0] || { verdict: [], tables: [], remarks: [], legend: [] };
  const said = new Set(last.headlines.map((one) => one.line.text));
  at("lines").replaceChildren(...[...budget.verdict, ...budget.remarks].filter((one) => !said.has(one.text)).map(line));
  const sources = budget.tables.findIndex((one) => / where it comes from/.test(one.title));
  at("sources").replaceChildren(...(sources < 0 ? [] : [table(budget.tables[sources])]));
  at("budget").replaceChildren(...budget.tables.filter((_, i) => i !== sources).map((one) => table(one)), ...budget.legend.map((one) => make("p", { className: "faint", textContent: one.text })));
  at("settings").replaceChildren(...last.settings.flatMap(report));
  at("beside").hidden = !last.comparison.length;
  at("beside").replaceChildren(...last.comparison.flatMap(report));
  at("advice").hidden = true;
  show_charts();
  show_changes();
  show_form();
}

// What takes longer, once nothing changes any more: advice, the file's own curve, each change alone.
async function think() {
  const number = asked, still = () => number === asked;
  const advice = await ask("advise", settings_of(changes));
  if (!still()) return;
  if (advice.advice) {
    at("advice").replaceChildren(...advice.advice.flatMap(report));
    at("advice").hidden = !at("advice").childNodes.length;
  }
  const alone = async (list) => { const reply = await ask("evaluate", settings_of(list)); return reply.result ? reply : null; };
  if (changes.length && !first.of[view]) {
    const reply = await alone([]);
    if (reply) first.of[view] = reply.result;
    if (!still()) return;
    show_charts();
  }
  for (const one of changes.slice(-12)) {
    const name = `${view}|${one.key}=${one.value}`;
    if (effects.has(name)) continue;
    const reply = await alone([one]);
    if (!still()) return;
    const before = worst_of(budget_of(first, view)), after = reply && worst_of(budget_of(reply, view));
    effects.set(name, after && before ? `±${Number(before.error.toPrecision(3))} to ±${Number(after.error.toPrecision(3))}` : "not sound alone");
    show_changes();
  }
  if (changes.length) await alone(changes);  // so that the next change is near to what the tool knows
}

at("undo").addEventListener("click", () => go(past, future));
at("redo").addEventListener("click", () => go(future, past));
at("keep").addEventListener("click", () => { if (last) { kept = { ...last, changes }; show_changes(); } });
at("find").addEventListener("input", find);
at("write").addEventListener("click", async () => {
  const reply = await ask("write", settings_of(changes));
  if (reply.problems) { wrong(reply.problems); return; }
  if (reply.file) { at("status").textContent = `written: ${reply.file}`; return; }
  const link = make("a", { href: URL.createObjectURL(new Blob([reply.text], { type: "application/toml" })), download: "changes.toml" });
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 1000);
  at("status").textContent = "changes.toml is a download";
});
document.addEventListener("keydown", (event) => {
  const pressed = (event.ctrlKey || event.metaKey) && event.key.toLowerCase();
  if (pressed === "z" && !event.shiftKey) { event.preventDefault(); go(past, future); }
  if (pressed === "y" || (pressed === "z" && event.shiftKey)) { event.preventDefault(); go(future, past); }
  if (pressed === "f" && event.shiftKey) { event.preventDefault(); at("find").focus(); }
});

ask("start", []).then(async (start) => {
  if (start.problems) { at("status").textContent = start.problems[0].text; return; }
  at("title").textContent = `Tamlo: tune${start.title ? ", " + start.title : ""}`;
  at("files").textContent = start.files.join(", ");
  if (start.write) at("write").title = start.write;
  started = { schema: start.schema, board: start.board };
  await evaluate();
});
