// Runs before the first paint: day or night as chosen, else as the device has it; and that there is a script at all.
(() => {
  const kept = localStorage.getItem("light");
  const night = kept ? kept === "night" : window.matchMedia("(prefers-color-scheme: dark)").matches;
  document.documentElement.dataset.light = night ? "night" : "day";
  document.documentElement.dataset.script = "on";
})();
