// Lines over an axis, as SVG: what the figures are is not known here.
const svg_node = (name, attributes, text) => {
  const node = document.createElementNS("http://www.w3.org/2000/svg", name);
  for (const [key, value] of Object.entries(attributes || {})) node.setAttribute(key, value);
  if (text !== undefined) node.textContent = text;
  return node;
};

// Round numbers from low to high, at most `most` steps between them.
function ticks(low, high, most) {
  const rough = (high - low) / most, power = 10 ** Math.floor(Math.log10(rough));
  const step = [1, 2, 5, 10].map((n) => n * power).find((n) => n >= rough * 0.999);
  const result = [];
  for (let n = Math.ceil(low / step - 1e-9); n * step <= high + step * 1e-6; ++n) result.push(n * step);
  return result;
}

const shortest = (x) => String(Number(x.toPrecision(6)));

// `series`: { name, look, points: [[x, y], ...], steps, dots }; `x`, `y`: { label, low, high }, where
// the ends are optional. Returns an SVG with a line under the pointer.
function line_chart({ title, x, y, series, marks = [], width = 860 }) {
  const height = 250, left = 62, right = 12, top = 12, bottom = 40;
  const all = series.flatMap((one) => one.points).filter(([, v]) => v !== null && isFinite(v));
  const chart = svg_node("svg", { viewBox: `0 0 ${width} ${height}`, role: "img", "aria-label": title, class: "chart" });
  if (!all.length) return chart;
  const span = (at, axis) => {
    const values = all.map((point) => point[at]);
    let low = axis.low ?? Math.min(...values), high = axis.high ?? Math.max(...values);
    if (!(high > low)) { const half = Math.abs(low) / 2 || 1; low -= half; high += half; }
    return [low, axis.high === undefined && at === 1 ? high + (high - low) * 0.06 : high];
  };
  const [x0, x1] = span(0, x), [y0, y1] = span(1, y);
  const to_x = (v) => left + (v - x0) / (x1 - x0) * (width - left - right);
  const to_y = (v) => height - bottom - (Math.min(Math.max(v, y0), y1) - y0) / (y1 - y0) * (height - top - bottom);
  for (const v of ticks(y0, y1, 5)) {
    chart.append(svg_node("line", { x1: left, x2: width - right, y1: to_y(v), y2: to_y(v), class: "grid" }));
    chart.append(svg_node("text", { x: left - 6, y: to_y(v) + 4, class: "tick end" }, shortest(v)));
  }
  for (const v of ticks(x0, x1, width / 90)) {
    chart.append(svg_node("line", { x1: to_x(v), x2: to_x(v), y1: height - bottom, y2: height - bottom + 4, class: "axis" }));
    chart.append(svg_node("text", { x: to_x(v), y: height - bottom + 16, class: "tick middle" }, shortest(v)));
  }
  chart.append(svg_node("line", { x1: left, x2: width - right, y1: height - bottom, y2: height - bottom, class: "axis" }));
  chart.append(svg_node("text", { x: (left + width - right) / 2, y: height - 6, class: "tick middle" }, x.label));
  chart.append(svg_node("text", { x: 12, y: (top + height - bottom) / 2, class: "tick middle",
    transform: `rotate(-90 12 ${(top + height - bottom) / 2})` }, y.label));
  for (const { at, name } of marks) {
    if (at < x0 || at > x1) continue;
    chart.append(svg_node("line", { x1: to_x(at), x2: to_x(at), y1: top, y2: height - bottom, class: "mark" }));
    const late = to_x(at) > width * 0.8;
    chart.append(svg_node("text", { x: to_x(at) + (late ? -4 : 4), y: top + 10, class: `tick ${late ? "end" : ""}` }, name));
  }
  for (const one of series) {
    let path = "", last = null;
    for (const [px, py] of one.points) {
      if (py === null || !isFinite(py)) { last = null; continue; }
      path += last === null ? `M${to_x(px).toFixed(1)} ${to_y(py).toFixed(1)}`
        : (one.steps ? `H${to_x(px).toFixed(1)}V${to_y(py).toFixed(1)}` : `L${to_x(px).toFixed(1)} ${to_y(py).toFixed(1)}`);
      last = py;
    }
    chart.append(svg_node("path", { d: path, class: `line ${one.look}` }));
    if (one.dots) for (const [px, py] of one.points) chart.append(svg_node("circle", { cx: to_x(px), cy: to_y(py), r: 2.5, class: one.look }));
  }
  const line = svg_node("line", { y1: top, y2: height - bottom, class: "pointer", visibility: "hidden" });
  const said = svg_node("text", { y: top + 10, class: "tick said", visibility: "hidden" });
  chart.append(line, said);
  chart.addEventListener("pointerleave", () => { for (const node of [line, said]) node.setAttribute("visibility", "hidden"); });
  chart.addEventListener("pointermove", (event) => {
    const box = chart.getBoundingClientRect();
    const value = x0 + ((event.clientX - box.left) / box.width * width - left) / (width - left - right) * (x1 - x0);
    const near = (points) => points.reduce((best, point) => Math.abs(point[0] - value) < Math.abs(best[0] - value) ? point : best);
    const at = near(series[0].points)[0];
    const figures = series.filter((one) => one.points.length).map((one) => [one.name, near(one.points)[1]])
      .filter(([, v]) => v !== null && isFinite(v)).map(([name, v]) => `${name} ${Number(v.toPrecision(4))}`);
    line.setAttribute("x1", to_x(at)); line.setAttribute("x2", to_x(at));
    const late = to_x(at) > width / 2;
    said.setAttribute("x", to_x(at) + (late ? -6 : 6));
    said.setAttribute("class", `tick said ${late ? "end" : ""}`);
    said.textContent = `${shortest(at)}: ${figures.join(", ")}`;
    for (const node of [line, said]) node.setAttribute("visibility", "visible");
  });
  const figure = document.createElement("figure"), caption = document.createElement("figcaption");
  const heading = document.createElement("b");
  heading.textContent = title;
  caption.append(heading);
  for (const one of series) {
    const sample = document.createElement("span"), key = document.createElement("i");
    key.className = `key ${one.look}`;
    sample.append(key, one.name);
    caption.append(sample);
  }
  figure.append(caption, chart);
  return figure;
}
