// Small screens: the fields come off the lanes and stand in rows beside their string, the drawing stays above as a picture;
// of the stations only those beside the one in hand are shown until all are asked for.
(() => {
  const small = matchMedia("(max-width: 1023.98px)");
  const lanes = new WeakMap();

  // A row of its own where no table has one for it.
  const row = (field) => {
    const list = document.getElementById("lane-rows") ?? (() => {
      const made = document.createElement("div");
      made.id = "lane-rows";
      document.querySelector(".lanes-echo")?.before(made);
      return made;
    })();
    const line = document.createElement("div");
    line.className = "lane-row";
    const name = document.createElement("span");
    name.textContent = field.getAttribute("aria-label").split(/[.:]/)[0];
    name.setAttribute("aria-hidden", "true");
    line.append(name);
    list.append(line);
    return line;
  };

  const arrange = () => {
    const focused = document.activeElement;
    for (const lane of document.querySelectorAll(".lane-field")) {
      const field = lane.querySelector("input:not([type=hidden])");
      if (!field) continue;
      if (small.matches && lane.parentElement.localName === "foreignObject") {
        lanes.set(lane, lane.parentElement);
        (document.querySelector(`[data-slot="${field.id}"]`) ?? row(field)).append(lane);
        if (document.querySelector(".keypad")) field.inputMode = "none";
      } else if (!small.matches && lanes.has(lane)) {
        lanes.get(lane).append(lane);
        field.removeAttribute("inputmode");
      }
    }
    if (!small.matches) document.getElementById("lane-rows")?.remove();
    // What is moved in the page loses the cursor.
    if (focused?.isConnected && focused !== document.body && focused !== document.activeElement) focused.focus({ preventScroll: true });
  };

  const stations = () => {
    const all = document.querySelector("[data-all]");
    all?.addEventListener("click", () => document.getElementById("stations").classList.remove("few"));
    if (all) document.getElementById("stations").classList.add("few");
  };

  const shown = () => { arrange(); stations(); };
  small.addEventListener("change", arrange);
  document.addEventListener("gradimen:shown", shown);
  if (document.readyState === "loading") document.addEventListener("DOMContentLoaded", shown);
  else shown();
})();
