// What is typed into a form marked x-draft is kept on this device until the server says that it was written down: leaving the page and
// coming back loses nothing. Secrets, files and hidden fields are never kept.
const LONGEST_DAYS = 14;
const PREFIX = "draft ";

const fieldsOf = (form) =>
  [...form.elements].filter((own) => own.name && !["hidden", "file", "password", "submit", "button"].includes(own.type));

const valuesOf = (form) =>
  fieldsOf(form).map((own) => [own.name, own.value, /radio|checkbox/.test(own.type) ? own.checked : null]);

const read = (name) => {
  try {
    return JSON.parse(localStorage.getItem(name));
  } catch {
    return null;
  }
};

const keep = (name, draft) => {
  try {
    localStorage.setItem(name, JSON.stringify(draft));
  } catch {
    // a full or forbidden store: the form itself still holds what was typed
  }
};

// Puts the kept values into the form; true where that changed anything.
const restore = (form, values) => {
  const left = [...values];
  let changed = false;
  for (const own of fieldsOf(form)) {
    const ticked = /radio|checkbox/.test(own.type);
    const at = left.findIndex(([name, value]) => name === own.name && (!ticked || value === own.value));
    if (at < 0) continue;
    const [[, value, checked]] = left.splice(at, 1);
    if (ticked ? own.checked === checked : own.value === value) continue;
    changed = true;
    if (ticked) own.checked = checked;
    else own.value = value;
    own.dispatchEvent(new Event(ticked ? "change" : "input", { bubbles: true }));
  }
  return changed;
};

const forget = (written) => {
  const oldest = Date.now() - LONGEST_DAYS * 86_400_000;
  for (const name of Object.keys(localStorage).filter((own) => own.startsWith(PREFIX))) {
    const draft = read(name);
    if (!draft || draft.at < oldest || draft.keys.some((key) => written.includes(key))) localStorage.removeItem(name);
  }
};

document.addEventListener("alpine:init", () => {
  forget((document.body.dataset.written ?? "").split(" ").filter(Boolean));
  Alpine.directive("draft", (form) => {
    const name = PREFIX + form.getAttribute("action") + (form.dataset.draftOf ?? "");
    let keys = read(name)?.keys ?? [];
    const note = () => keep(name, { at: Date.now(), keys, values: valuesOf(form) });
    const kept = read(name);
    // After a refusal the server has sent back what was typed, which is newer than anything kept.
    if (kept && !form.dataset.answered && restore(form, kept.values)) {
      for (const own of form.querySelectorAll("[data-draft-says]")) own.hidden = false;
    }
    form.addEventListener("input", note);
    form.addEventListener("change", note);
    form.addEventListener("submit", () => {
      keys = [...keys, form.elements.key.value].slice(-5);
      note();
    });
    for (const button of form.querySelectorAll("[data-draft-drops]")) {
      button.addEventListener("click", () => {
        localStorage.removeItem(name);
        location.reload();
      });
    }
  });
});
