// What the browser must do: keys, the cursor after a change, and the sheet of keys.
(() => {
  const typing = (element) =>
    element instanceof HTMLInputElement ? !["checkbox", "radio", "button", "submit", "file"].includes(element.type)
      : element instanceof HTMLSelectElement || element instanceof HTMLTextAreaElement;

  // The server says where the next reading goes.
  const focusWanted = () => {
    const conflict = document.getElementById("keep-mine");
    const wrong = document.querySelector("#job [aria-invalid='true'], #page [aria-invalid='true']");
    const job = document.getElementById("job");
    const named = job?.dataset.focus ? document.getElementById(job.dataset.focus) : null;
    const target = conflict ?? wrong ?? named;
    if (target) {
      target.focus({ preventScroll: false });
      if (target.select) target.select();
    }
  };

  // What stands typed in a lane while something else is kept comes back after the swap.
  const pending = new Map();
  const remember = (submitted) => {
    for (const field of document.querySelectorAll("input[data-lane]")) {
      const key = location.pathname + "#" + field.id;
      if (field.value !== field.defaultValue && !submitted?.contains(field)) pending.set(key, field.value);
      else pending.delete(key);
    }
  };
  const restore = () => {
    for (const field of document.querySelectorAll("input[data-lane]")) {
      const typed = pending.get(location.pathname + "#" + field.id);
      if (typed !== undefined && field.value === "") field.value = typed;
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
    b: () => { window.location.href = "/"; return true; },
    r: () => {
      const row = document.querySelector("tr.on a");
      const string = row?.getAttribute("aria-label")?.match(/\d+/)?.[0] ?? "1";
      const field = document.getElementById("reading-" + string) ?? document.getElementById("gauge" + string);
      field?.focus();
      return Boolean(field);
    },
    "/": () => {
      const search = document.getElementById("search");
      search?.focus();
      search?.select();
      return Boolean(search);
    },
    "?": () => { showKeys(); return true; },
  };

  document.addEventListener("keydown", (event) => {
    if (event.ctrlKey || event.altKey || event.metaKey || document.querySelector("dialog[open]")) return;
    const element = event.target;
    if (typing(element)) {
      if (event.key === "Escape") element.blur();
      const step = { ArrowUp: -1, ArrowDown: 1 }[event.key];
      if (step && /\d$/.test(element.id) && !(element instanceof HTMLSelectElement) && neighbour(element, step)) event.preventDefault();
      return;
    }
    const act = plainKeys[event.key] ?? (/^\d$/.test(event.key) ? () => click(`[data-digit="${event.key}"]`) : null);
    if (act && act()) event.preventDefault();
  });

  document.addEventListener("click", (event) => {
    if (event.target.closest?.("[data-keys]")) showKeys();
  });

  // A swapped-in page announces itself; one whose server is gone says so and keeps what was typed.
  document.addEventListener("htmx:afterSettle", (event) => {
    if (event.detail.elt?.id !== "job") return;
    restore();
    focusWanted();
  });
  document.addEventListener("htmx:beforeSwap", (event) => {
    if (event.detail.target?.id === "job") remember(event.detail.requestConfig?.elt);
  });
  document.addEventListener("htmx:sendError", () => {
    let bar = document.getElementById("gone");
    if (!bar) {
      bar = document.createElement("p");
      bar.id = "gone";
      bar.setAttribute("role", "alert");
      bar.className = "notice notice-stop fixed bottom-0 inset-x-0 !p-4 text-lg";
      document.body.append(bar);
    }
    bar.textContent = "The program did not answer: nothing was kept of this. What you typed is still here; start the program and press Enter again.";
  });
  document.addEventListener("htmx:afterRequest", (event) => {
    if (event.detail.successful) document.getElementById("gone")?.remove();
  });
  if (document.readyState === "loading") document.addEventListener("DOMContentLoaded", focusWanted);
  else focusWanted();
})();
