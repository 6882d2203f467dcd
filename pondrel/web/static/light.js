// Runs before the first paint: day or night as chosen, else as the device has it.
(() => {
  const kept = localStorage.getItem("light");
  const night = kept ? kept === "night" : window.matchMedia("(prefers-color-scheme: dark)").matches;
  document.documentElement.dataset.light = night ? "night" : "day";
})();
