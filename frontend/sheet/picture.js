// The small picture of a word, from its lines, bars and dots.

const SVG = "http://www.w3.org/2000/svg";

export function pictureOf(picture) {
  if (!picture) return null;
  const svg = document.createElementNS(SVG, "svg");
  svg.setAttribute("viewBox", "0 0 96 64");
  svg.setAttribute("class", "word-picture");
  svg.setAttribute("aria-hidden", "true");
  const add = (name, attributes) => {
    const node = document.createElementNS(SVG, name);
    for (const [key, value] of Object.entries(attributes)) node.setAttribute(key, value);
    svg.append(node);
  };
  for (const line of picture.lines) add("polyline", { points: line.map((point) => point.join(",")).join(" "), class: "line" });
  for (const [from, to] of picture.bars) add("line", { x1: from[0], y1: from[1], x2: to[0], y2: to[1], class: "bar" });
  for (const [cx, cy] of picture.dots) add("circle", { cx, cy, r: 2, class: "dot" });
  return svg;
}
