// What every page has: rooms by key, day and night, the list of keys. Every rule and every number comes from the server, and everything
// works without a script, too, by plain links and forms.
import { typing } from "./fragment.js";

document.addEventListener("alpine:init", () => {
  Alpine.data("shell", () => ({
    key(event) {
      if (event.ctrlKey || event.metaKey || event.altKey || typing(event.target)) return;
      if (event.key === "?") this.help();
      else if (event.key === "d") this.light();
      else if (event.key === "/" && document.querySelector("[data-focus='/']")) document.querySelector("[data-focus='/']").focus();
      else {
        const pressed = CSS.escape(event.key);
        const target = document.querySelector(`a[data-key="${pressed}"], button[data-key="${pressed}"]:not(:disabled)`);
        if (!target) return;
        target.click();
      }
      event.preventDefault();
    },
    // A menu that stands open closes when something else is touched.
    closeMenus(event) {
      for (const menu of document.querySelectorAll("details.menu[open], details.who[open]")) {
        if (!menu.contains(event.target)) menu.open = false;
      }
    },
    printPage() {
      window.print();
    },
    help() {
      this.$refs.keys.showModal();
    },
    light() {
      const root = document.documentElement;
      root.dataset.light = root.dataset.light === "night" ? "day" : "night";
      localStorage.setItem("light", root.dataset.light);
    },
  }));
});
