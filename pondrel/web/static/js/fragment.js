// Fetch a page's middle and put it in the place of the old one. Whatever had the keys has them afterwards: focus is never stolen.

export const typing = (target) => target.closest("input, textarea, select, dialog[open]") !== null;

// How the focused element is found again in what the server drew anew: by the first of these that it has.
const MARKS = ["id", "name", "data-place", "data-unplug", "data-draw", "href"];

const selectorOf = (element) => {
  for (const mark of MARKS) {
    const value = element.getAttribute(mark);
    if (!value) continue;
    const own = element.getAttribute("value");
    const also = element.matches("button, input[type=radio]") && own !== null ? `[value="${CSS.escape(own)}"]` : "";
    const data = mark === "data-draw" ? `[href="${CSS.escape(element.getAttribute("href"))}"]` : "";
    return `${element.localName}[${mark}="${CSS.escape(value)}"]${also}${data}`;
  }
  return element.localName === "summary" ? "summary" : "";
};

// Puts the HTML into the root; true where what had the keys before has them again, or had none there.
export const swap = (root, html) => {
  const active = document.activeElement;
  const inside = root.contains(active) && active !== root;
  const selector = inside ? selectorOf(active) : "";
  const at = selector ? [...root.querySelectorAll(selector)].indexOf(active) : -1;
  const scrolled = new Map([...root.querySelectorAll("[data-keeps-scroll]")].map((own) => [own.dataset.keepsScroll, own.scrollTop]));
  const open = new Set([...root.querySelectorAll("details[data-keeps-open][open]")].map((own) => own.dataset.keepsOpen));
  root.innerHTML = html;
  for (const own of root.querySelectorAll("details[data-keeps-open]")) if (open.has(own.dataset.keepsOpen)) own.open = true;
  for (const own of root.querySelectorAll("[data-keeps-scroll]")) own.scrollTop = scrolled.get(own.dataset.keepsScroll) ?? 0;
  if (!inside) return true;
  const again = at < 0 ? null : root.querySelectorAll(selector)[at];
  again?.focus({ preventScroll: true });
  return Boolean(again);
};

// The page's middle at an address, as text. Throws an Error with a sentence for the person where there is none.
export const middle = async (url, options = {}) => {
  const answer = await fetch(url, { ...options, headers: { "X-Fragment": "1" } });
  const html = await answer.text();
  if (!answer.ok && answer.status !== 422) {
    const found = new DOMParser().parseFromString(html, "text/html").querySelector("[role=alert]");
    throw new Error(found ? found.textContent : "That did not work: load the page again.");
  }
  return { html, taken: answer.ok };
};
