// What is wrong with the page as it stands, as a list of sentences: text that is cut off or sticks out, targets too small for a thumb.
(least) => {
  const BOXES = ".panel, .next-main, .next-more, .jobbar, .button, .tab, .chip, .rung, .stage";
  const wrong = [];
  const told = (element) => {
    const name = element.getAttribute("aria-label") || element.textContent || element.value || element.placeholder || "";
    return `<${element.localName} class="${element.getAttribute("class") ?? ""}"> ${name.trim().replace(/\s+/g, " ").slice(0, 60)}`;
  };
  const style = (element) => getComputedStyle(element);
  const seen = (element) => element.checkVisibility({ opacityProperty: true, visibilityProperty: true });
  const hiddenAway = (element) => element.closest(".sr-only, [aria-hidden=true], option, script, style, defs") !== null;
  const scrolls = (element) => /auto|scroll/.test(style(element).overflowX + style(element).overflowY);
  const pen = document.createElement("canvas").getContext("2d");
  const wide = (element, text, part) => {
    pen.font = getComputedStyle(element, part).font;
    return pen.measureText(text).width;
  };
  const room = (element, more) => element.clientWidth - parseFloat(style(element).paddingLeft) - parseFloat(style(element).paddingRight) - more;

  if (document.documentElement.scrollWidth > innerWidth) wrong.push(`the page scrolls sideways: ${document.documentElement.scrollWidth} px`);

  for (const element of document.body.querySelectorAll("*")) {
    if (!seen(element) || hiddenAway(element)) continue;
    const own = [...element.childNodes].some((node) => node.nodeType === Node.TEXT_NODE && node.data.trim());
    const box = element.getBoundingClientRect();
    if (element.matches("select")) {
      if (wide(element, element.selectedOptions[0]?.text ?? "") > room(element, 18) + 1) wrong.push(`cut in its field: ${told(element)}`);
    } else if (element.matches("input:not([type=radio], [type=checkbox], [type=file])")) {
      if (wide(element, element.value || element.placeholder, element.value ? undefined : "::placeholder") > room(element, 0) + 1) wrong.push(`cut in its field: ${told(element)}`);
    }
    if (!own) continue;
    const size = parseFloat(style(element).fontSize);
    if (size < 12.9) wrong.push(`written in ${size} px: ${told(element)}`);
    if (element.closest("svg")) continue;
    const clips = /hidden|clip/.test(style(element).overflowX);
    if (clips && element.scrollWidth > element.clientWidth + 1) wrong.push(`cut off: ${told(element)}`);
    let around = element.closest(BOXES);
    while (around && style(around).display === "contents") around = around.parentElement.closest(BOXES);
    let within = element;
    while (within && within !== around && !scrolls(within)) within = within.parentElement;
    if (around && within === around && !scrolls(around)) {
      const edge = around.getBoundingClientRect();
      if (box.right > edge.right + 1.5 || box.left < edge.left - 1.5) wrong.push(`sticks out of its box: ${told(element)}`);
    }
  }

  const targets = "a[href], button, input:not([type=hidden]), select, textarea, summary, [role=button], label:has(input)";
  for (const element of least ? document.querySelectorAll(targets) : []) {
    if (!seen(element) || element.closest(".sr-only")) continue;
    if (element.matches("input") && element.closest("label.chip, label.choice")) continue; // the label is the target
    const box = element.getBoundingClientRect();
    const height = element.matches("label.field") ? least : box.height;
    if (height < least - 0.5 || box.width < least - 0.5) wrong.push(`${Math.round(box.width)} x ${Math.round(box.height)} px: ${told(element)}`);
  }
  return [...new Set(wrong)];
};
