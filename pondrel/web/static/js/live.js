// A meter on the wire: its number is asked for while the page is in view, shown in its strip, and taken by Enter or a touch.
const EVERY = 350; // milliseconds
const AFTER_TROUBLE = 3000;

// `ask` gives what is to be read as search parameters, null for nothing now; `take` gets the number as it would be typed.
export const liveMeter = (root, ask, take) => {
  let last = null;
  let lastFor = ""; // what it was asked for: a number of another place or state is never taken
  let timer = 0;
  const strip = () => root.querySelector("[data-live]");
  const part = (name) => strip()?.querySelector(`[data-live-${name}]`);
  const draw = () => {
    const own = strip();
    if (!own) return;
    own.hidden = !last;
    if (!last) return;
    own.classList.toggle("held", Boolean(last.steady));
    part("meter").textContent = last.meter ?? "";
    part("number").textContent = last.says ? "" : last.shown;
    part("says").textContent = last.says || (last.steady ? "held" : "moving");
    part("take").hidden = Boolean(last.says);
  };
  const poll = async () => {
    const own = strip();
    const asked = own && !document.hidden ? ask() : null;
    let wait = EVERY;
    if (asked) {
      try {
        const answer = await fetch(`${own.dataset.live}?${asked}`);
        last = answer.status === 200 ? await answer.json() : null;
        lastFor = asked.toString();
        if (!last) wait = AFTER_TROUBLE;
        else if (last.says) wait = AFTER_TROUBLE;
      } catch {
        lastFor = asked.toString();
        last = { says: "Pondrel does not answer: numbers can be read again when it is back." };
        wait = AFTER_TROUBLE;
      }
    } else last = null;
    if (last && lastFor !== (ask()?.toString() ?? "")) last = null;
    draw();
    timer = setTimeout(poll, wait);
  };
  const taken = () => {
    if (!last?.typed || lastFor !== (ask()?.toString() ?? "")) return false;
    take(last.typed);
    return true;
  };
  root.addEventListener("click", (event) => {
    if (event.target.closest("[data-live-take]") && taken()) event.preventDefault();
  });
  poll();
  return { taken, number: () => last?.typed ?? "", stop: () => clearTimeout(timer) };
};
