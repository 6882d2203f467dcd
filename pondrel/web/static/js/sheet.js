import { middle, swap } from "./fragment.js";

document.addEventListener("alpine:init", () => {
  // What-if on a sheet: the server works out the same page's middle again.
  Alpine.data("sheet", () => ({
    async load(url) {
      history.replaceState(null, "", url);
      try {
        const { html } = await middle(url);
        swap(this.$root, html);
      } catch {
        location.assign(url);
      }
    },
    asked(form) {
      const url = new URL(location.pathname, location.href);
      for (const [name, value] of new FormData(form)) if (value) url.searchParams.set(name, value);
      return url;
    },
    change(event) {
      const form = event.target.closest("form.what-if");
      if (!form) return;
      // Another fault has another size: the old one's does not go with it.
      if (event.target.name === "fault") form.elements.value?.removeAttribute("name");
      this.load(this.asked(form));
    },
    submit(event) {
      if (!event.target.matches("form.what-if")) return;
      event.preventDefault();
      this.load(this.asked(event.target));
    },
    click(event) {
      const link = event.target.closest("a[data-draw]");
      if (!link || event.ctrlKey || event.metaKey || event.shiftKey) return;
      event.preventDefault();
      this.load(new URL(link.href));
    },
  }));
});
