// What the browser must do: keys, the cursor after a change, and the sheet of keys.
(() => {
  const typing = (element) =>
    element instanceof HTMLInputElement ? !["checkbox", "radio", "button", "submit", "file"].includes(element.type)
      : element instanceof HTMLSelectElement || element instanceof HTMLTextAreaElement;

  // The server says where the next reading goes.
  const focusWanted = () => {
    const conflict = document.getElementById("keep-mine") ?? document.querySelector("[data-answer]");
    const wrong = document.querySelector("#job [aria-invalid='true'], #page [aria-invalid='true']");
    const job = document.getElementById("job");
    const named = job?.dataset.focus ? document.getElementById(job.dataset.focus) : null;
    const target = conflict ?? wrong ?? named;
    if (target) {
      target.focus({ preventScroll: false });
      if (target.select) target.select();
    } else if (document.activeElement?.matches("input[data-lane]") && document.activeElement.value === "" && !document.querySelector(".while-asked")) {
      // Nothing is asked for: a field that kept the cursor through the change gives it up, so that every key is a key.
      document.activeElement.blur();
    }
  };

  const click = (selector) => {
    const element = document.querySelector(selector);
    if (!element || element.disabled) return false;
    element.click();
    return true;
  };

  const showKeys = () => {
    const sheet = document.getElementById("keys");
    if (sheet && !sheet.open) sheet.showModal();
  };

  // The same place on the string above or below.
  const neighbour = (field, step) => {
    const kind = field.id.replace(/\d+$/, "");
    const next = document.getElementById(kind + (Number(field.dataset.lane ?? field.id.match(/\d+$/)?.[0]) + step));
    if (next) {
      next.focus();
      next.select?.();
    }
    return Boolean(next);
  };

  const plainKeys = {
    z: () => click("#undo button"),
    Z: () => click("#redo button"),
    d: () => click("#done button"),
    w: () => {
      const opened = click("#why > summary");
      document.getElementById("why")?.scrollIntoView({ block: "nearest" });
      return opened;
    },
    n: () => click("#next"),
    b: () => click("header a[href='/']"),
    r: () => {
      const own = document.getElementById(document.querySelector("tr.on [data-slot]")?.dataset.slot);
      if (own) {
        own.focus();
        return true;
      }
      const row = document.querySelector("tr.on a");
      const string = row?.getAttribute("aria-label")?.match(/\d+/)?.[0] ?? "1";
      const field = ["reading-", "action-", "nut-", "relief-", "pickup-", "balance-", "gauge"].map((kind) => document.getElementById(kind + string)).find(Boolean) ?? document.querySelector("input[data-lane]");
      field?.focus();
      return Boolean(field);
    },
    "/": () => {
      const search = document.getElementById("search");
      search?.focus();
      search?.select();
      return Boolean(search);
    },
    p: () => click('[data-digit="p"]'),
    i: () => click('[data-digit="i"]'),
    g: () => click('[data-digit="g"]'),
    y: () => click('[data-digit="y"]'),
    "?": () => { showKeys(); return true; },
  };

  document.addEventListener("keydown", (event) => {
    // A key that is held down is pressed once, but for the arrows and what is typed.
    if (event.repeat && !typing(event.target)) return;
    if (event.ctrlKey || event.altKey || event.metaKey || document.querySelector("dialog[open]")) return;
    const element = event.target;
    if (typing(element)) {
      // In an empty lane a letter that no reading begins with is a key like anywhere else.
      const empty = element.matches("input[data-lane]") && element.value === "";
      const reads = document.querySelector(`[data-word^="${CSS.escape(event.key)}"]`);
      if (empty && !reads && !("quiet" in document.documentElement.dataset) && /^[a-zZ?]$/.test(event.key) && plainKeys[event.key]?.()) {
        event.preventDefault();
        return;
      }
      // What was read here before reads as it is expected to.
      if (event.key === "=" && element.matches("[data-expected]") && element.value === "" && !("quiet" in document.documentElement.dataset)) {
        event.preventDefault();
        element.value = element.dataset.expected;
        element.form.requestSubmit();
        return;
      }
      if (event.key === "Escape") element.blur();
      const step = { ArrowUp: -1, ArrowDown: 1 }[event.key];
      if (step && /\d$/.test(element.id) && !(element instanceof HTMLSelectElement) && neighbour(element, step)) event.preventDefault();
      return;
    }
    // Typed on a field that was swapped away under the hands.
    if ("quiet" in document.documentElement.dataset) return;
    const act = plainKeys[event.key] ?? (/^\d$/.test(event.key) ? () => click(`[data-digit="${event.key}"]`) : null);
    if (act && act()) event.preventDefault();
  });

  document.addEventListener("click", (event) => {
    if (event.target.closest?.("[data-keys]")) showKeys();
  });

  document.addEventListener("gradimen:shown", focusWanted);
  if (document.readyState === "loading") document.addEventListener("DOMContentLoaded", focusWanted);
  else focusWanted();
})();
