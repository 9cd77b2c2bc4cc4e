/** A drawing of the page as a file of its own: what the styles say is written into it. */
const WRITTEN = [
  "fill",
  "stroke",
  "stroke-width",
  "stroke-dasharray",
  "font-size",
  "font-weight",
  "font-family",
  "opacity",
];

const inlined = (from: Element, to: Element): void => {
  const style = getComputedStyle(from);
  to.removeAttribute("class");
  for (const name of WRITTEN) {
    const value = style.getPropertyValue(name);
    if (value !== "") to.setAttribute(name, value);
  }
  Array.from(from.children).forEach((child, i) => {
    const copy = to.children[i];
    if (copy !== undefined) inlined(child, copy);
  });
};

/** The text of an SVG file that looks like an element of the page. */
export const svgText = (element: SVGSVGElement): string => {
  const copy = element.cloneNode(true) as SVGSVGElement;
  inlined(element, copy);
  copy.setAttribute("xmlns", "http://www.w3.org/2000/svg");
  return `<?xml version="1.0" encoding="UTF-8"?>\n${new XMLSerializer().serializeToString(copy)}\n`;
};

/** Save a text or bytes as a file, as a download does. */
export const download = (name: string, content: string | Blob, type: string): void => {
  const address = URL.createObjectURL(new Blob([content], { type }));
  const link = document.createElement("a");
  link.href = address;
  link.download = name;
  link.click();
  URL.revokeObjectURL(address);
};
