// Points on a drawing: where a touch was, as shares of its width and height, and a numbered disc for each.
const SVG = "http://www.w3.org/2000/svg";

export function touched(event, drawing) {
  const box = drawing.getBoundingClientRect();
  const share = (at, from, length) => Math.min(Math.max((at - from) / length, 0), 1);
  return [share(event.clientX, box.left, box.width), share(event.clientY, box.top, box.height)];
}

export function disc(x, y, radius, size, number, name) {
  const group = document.createElementNS(SVG, "g");
  group.setAttribute("class", name);
  const circle = document.createElementNS(SVG, "circle");
  const text = document.createElementNS(SVG, "text");
  for (const [key, value] of [["cx", x], ["cy", y], ["r", radius]]) circle.setAttribute(key, value);
  for (const [key, value] of [["x", x], ["y", y], ["font-size", size]]) text.setAttribute(key, value);
  text.textContent = String(number);
  group.append(circle, text);
  return group;
}
