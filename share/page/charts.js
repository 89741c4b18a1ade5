// Charts as SVG: what the figures are is not known here. A panel is { x, y, series, marks }: axes are
// { label, low, high, logarithmic }, where the ends are optional; a series is { name, look, shape, points,
// texts, labelled }, its points [x, y] or, of errors, bars and bands, [x, y, half | width | other end].
const svg_node = (name, attributes, text) => {
  const node = document.createElementNS("http://www.w3.org/2000/svg", name);
  for (const [key, value] of Object.entries(attributes || {})) node.setAttribute(key, value);
  if (text !== undefined) node.textContent = text;
  return node;
};
const is_number = (v) => v !== null && v !== undefined && isFinite(v);
const shortest = (x) => Math.abs(x) >= 1e6 || (x !== 0 && Math.abs(x) < 1e-4) ? x.toExponential(2).replace(/\.?0+e/, "e") : String(Number(x.toPrecision(6)));

// Round numbers from low to high, at most `most` steps between them; of a logarithmic axis the decades.
function ticks(low, high, most, logarithmic) {
  const result = [];
  if (logarithmic) {
    const first = Math.ceil(Math.log10(low) - 1e-9), last = Math.floor(Math.log10(high) + 1e-9), every = Math.ceil((last - first + 1) / most);
    for (let n = first; n <= last; n += every) result.push(10 ** n);
    return result.length > 1 ? result : [low, high];
  }
  const rough = (high - low) / most, power = 10 ** Math.floor(Math.log10(rough));
  const step = [1, 2, 5, 10].map((n) => n * power).find((n) => n >= rough * 0.999);
  for (let n = Math.ceil(low / step - 1e-9); n * step <= high + step * 1e-6; ++n) result.push(n * step);
  return result;
}

// The ends of an axis: those that are given, else of what is drawn, with room above and below.
function ends_of(axis, values, room) {
  const drawn = values.filter((v) => is_number(v) && (!axis.logarithmic || v > 0));
  let low = axis.low ?? Math.min(...drawn), high = axis.high ?? Math.max(...drawn);
  if (!(high > low)) { const half = Math.abs(low) / 2 || 1; low -= half; high += half; }
  if (axis.logarithmic) return [low, high];
  const more = room * (high - low);
  return [axis.low ?? low - more, axis.high ?? high + more];
}

function mark_of(x, y, look) {
  const size = 3.5;
  if (look === "doubtful") return svg_node("rect", { x: x - size, y: y - size, width: 2 * size, height: 2 * size, class: `dot ${look}` });
  if (look === "bad") return svg_node("path", { d: `M${x} ${y - 5}L${x + 5} ${y}L${x} ${y + 5}L${x - 5} ${y}Z`, class: `dot ${look}` });
  return svg_node("circle", { cx: x, cy: y, r: look === "now" ? 2.5 : size, class: `dot ${look}` });
}

function panel_of({ x, y, series, marks = [] }, title, width) {
  const height = 250, left = 66, right = 14, top = 12, bottom = 40;
  const chart = svg_node("svg", { viewBox: `0 0 ${width} ${height}`, role: "img", "aria-label": title, class: "chart" });
  const all = series.flatMap((one) => one.points);
  if (!all.some(([, v]) => is_number(v))) return chart;
  const spread = series.flatMap(({ shape, points }) => points.flatMap(([, v, w]) => shape === "errors" ? [v - w, v + w] : shape === "band" ? [v, w] : shape === "bars" ? [0, v] : [v]));
  const [x0, x1] = ends_of(x, all.map((point) => point[0]), 0), [y0, y1] = ends_of(y, spread, 0.06);
  const part = (v, low, high, logarithmic) => logarithmic ? Math.log(Math.max(v, 1e-300) / low) / Math.log(high / low) : (v - low) / (high - low);
  const to_x = (v) => left + part(v, x0, x1, x.logarithmic) * (width - left - right);
  const to_y = (v) => height - bottom - part(Math.min(Math.max(v, y0), y1), y0, y1, y.logarithmic) * (height - top - bottom);
  const place = (px, py) => `${to_x(px).toFixed(1)} ${to_y(py).toFixed(1)}`;
  for (const v of ticks(y0, y1, 7, y.logarithmic)) {
    chart.append(svg_node("line", { x1: left, x2: width - right, y1: to_y(v), y2: to_y(v), class: "grid" }));
    chart.append(svg_node("text", { x: left - 6, y: to_y(v) + 4, class: "tick end" }, shortest(v)));
  }
  for (const v of ticks(x0, x1, width / 90, x.logarithmic)) {
    chart.append(svg_node("line", { x1: to_x(v), x2: to_x(v), y1: height - bottom, y2: height - bottom + 4, class: "axis" }));
    chart.append(svg_node("text", { x: to_x(v), y: height - bottom + 16, class: "tick middle" }, shortest(v)));
  }
  chart.append(svg_node("line", { x1: left, x2: width - right, y1: height - bottom, y2: height - bottom, class: "axis" }));
  chart.append(svg_node("text", { x: (left + width - right) / 2, y: height - 6, class: "tick middle" }, x.label));
  chart.append(svg_node("text", { x: 12, y: (top + height - bottom) / 2, class: "tick middle", transform: `rotate(-90 12 ${(top + height - bottom) / 2})` }, y.label));
  for (const { at, name } of marks) {
    if (at < x0 || at > x1) continue;
    const late = to_x(at) > width * 0.8;
    chart.append(svg_node("line", { x1: to_x(at), x2: to_x(at), y1: top, y2: height - bottom, class: "mark" }));
    chart.append(svg_node("text", { x: to_x(at) + (late ? -4 : 4), y: top + 10, class: `tick ${late ? "end" : ""}` }, name));
  }
  for (const { look, shape, points, texts = [], labelled } of series) {
    const there = points.filter(([px, py]) => is_number(py) && px >= x0 - 1e-9 * (x1 - x0) && px <= x1 + 1e-9 * (x1 - x0));
    if (shape === "band") {
      if (there.length) chart.append(svg_node("path", { d: `M${there.map(([px, , w]) => place(px, w)).join("L")}L${[...there].reverse().map(([px, py]) => place(px, py)).join("L")}Z`, class: `filled ${look}` }));
    } else if (shape === "bars") {
      for (const [px, py, w] of there) chart.append(svg_node("rect", { x: to_x(px - w / 2), width: to_x(px + w / 2) - to_x(px - w / 2), y: to_y(py), height: height - bottom - to_y(py), class: `bar-of ${look}` }));
    } else if (shape === "dots" || shape === "errors") {
      points.forEach(([px, py, w], i) => {
        if (!is_number(py)) return;
        if (shape === "errors") chart.append(svg_node("path", { d: `M${place(px, py - w)}L${place(px, py + w)}M${to_x(px) - 4} ${to_y(py - w)}h8M${to_x(px) - 4} ${to_y(py + w)}h8`, class: `whisker ${look}` }));
        const dot = mark_of(to_x(px), to_y(py), look);
        if (texts[i]) dot.append(svg_node("title", {}, texts[i]));
        chart.append(dot);
        if (labelled && texts[i]) chart.append(svg_node("text", { x: to_x(px) + 5, y: to_y(py) - 6, class: "tick" }, texts[i]));
      });
    } else {
      let path = "", last = false;
      for (const [px, py] of points) {
        if (!is_number(py)) { last = false; continue; }
        path += !last ? `M${place(px, py)}` : shape === "steps" ? `H${to_x(px).toFixed(1)}V${to_y(py).toFixed(1)}` : `L${place(px, py)}`;
        last = true;
      }
      chart.append(svg_node("path", { d: path, class: `line ${look}` }));
    }
  }
  add_pointer(chart, series.filter(({ name, points, shape }) => name && points.length && shape !== "band"), { width, height, left, right, top, bottom, to_x,
    value_at: (share) => x.logarithmic ? x0 * (x1 / x0) ** share : x0 + share * (x1 - x0) });
  return chart;
}

// A line under the pointer, with the figures of all series there.
function add_pointer(chart, series, { width, height, left, right, top, bottom, to_x, value_at }) {
  if (!series.length) return;
  const line = svg_node("line", { y1: top, y2: height - bottom, class: "pointer", visibility: "hidden" });
  const said = svg_node("text", { y: top + 10, class: "tick said", visibility: "hidden" });
  chart.append(line, said);
  chart.addEventListener("pointerleave", () => { for (const node of [line, said]) node.setAttribute("visibility", "hidden"); });
  chart.addEventListener("pointermove", (event) => {
    const box = chart.getBoundingClientRect();
    const value = value_at(((event.clientX - box.left) / box.width * width - left) / (width - left - right));
    const near = (points) => points.reduce((best, point) => Math.abs(point[0] - value) < Math.abs(best[0] - value) ? point : best);
    const at = near(series[0].points)[0];
    const figures = series.map((one) => [one.name, near(one.points)[1]]).filter(([, v]) => is_number(v)).map(([name, v]) => `${name} ${Number(v.toPrecision(4))}`);
    line.setAttribute("x1", to_x(at)); line.setAttribute("x2", to_x(at));
    const late = to_x(at) > width / 2;
    said.setAttribute("x", to_x(at) + (late ? -6 : 6));
    said.setAttribute("class", `tick said ${late ? "end" : ""}`);
    said.textContent = `${shortest(at)}: ${figures.join(", ")}`;
    for (const node of [line, said]) node.setAttribute("visibility", "visible");
  });
}

// { title, panels }, as report::json writes it, in `width` pixels of its own.
function chart_of({ title, panels }, width = 860) {
  const figure = document.createElement("figure"), caption = document.createElement("figcaption"), heading = document.createElement("b");
  heading.textContent = title;
  caption.append(heading);
  for (const { name, look, shape, points } of panels.flatMap((panel) => panel.series)) {
    if (!name || !points.length) continue;
    const sample = document.createElement("span"), key = document.createElement("i");
    key.className = `key ${look} ${shape === "band" || shape === "bars" ? "wide" : ""}`;
    sample.append(key, name);
    caption.append(sample);
  }
  figure.append(caption, ...panels.map((panel) => panel_of(panel, title, width)));
  return figure;
}
