// What happens while a change is on its way: what is done meanwhile waits for its turn, what stands
// typed comes back after the swap, and a server that does not answer is said out loud.
(() => {
  // What stands typed in a lane while something else is kept comes back after the swap.
  const typed = new Map();
  const remember = (submitted) => {
    for (const field of document.querySelectorAll("input[data-lane]")) {
      const key = location.pathname + "#" + field.id;
      if (field.value !== field.defaultValue && !submitted?.contains(field)) typed.set(key, field.value);
      else typed.delete(key);
    }
  };
  const restore = () => {
    for (const field of document.querySelectorAll("input[data-lane]")) {
      const text = typed.get(location.pathname + "#" + field.id);
      if (text !== undefined && field.value === "") field.value = text;
    }
  };

  // The hands may already be at another field or tool when the page that was asked for comes. At the same
  // place of the same station they find it again; elsewhere what they type on is nobody's command.
  let start = { active: null, open: [] };
  let hands = null;
  const place = () => location.pathname + [...document.querySelectorAll("[data-place]")].map((field) => `&${field.name}=${field.value}`).join("");
  const toolName = (details) => details.querySelector("summary")?.textContent;
  const openTools = () => [...document.querySelectorAll("#job details[open]")].map(toolName);
  const begin = () => { start = { active: document.activeElement, open: openTools() }; };
  const leave = (submitted) => {
    const field = document.activeElement;
    const moved = field?.id && field !== start.active && field.matches("#job input, #job select, #job textarea") && !submitted?.contains(field);
    hands = {
      place: place(),
      opened: openTools().filter((name) => !start.open.includes(name)),
      field: moved ? { id: field.id, typed: field.value !== field.defaultValue ? field.value : null } : null,
    };
  };
  const quiet = () => {
    document.documentElement.dataset.quiet = "";
    setTimeout(() => delete document.documentElement.dataset.quiet, 800);
  };
  const arrive = () => {
    const found = hands;
    hands = null;
    if (!found) return;
    const asked = document.querySelector("[role=alertdialog]");
    if (asked || found.place !== place()) {
      if (found.field) quiet();
      return;
    }
    for (const details of document.querySelectorAll("#job details")) {
      if (found.opened.includes(toolName(details))) details.open = true;
    }
    const field = found.field && document.getElementById(found.field.id);
    if (!field) return;
    if (field.value === "" && found.field.typed) field.value = found.field.typed;
    field.focus();
  };

  // Done, and the next order stands under the same finger: a press that bounces must not tell it too.
  const pause = () => {
    const button = document.querySelector("#done button");
    if (!button) return;
    button.disabled = true;
    setTimeout(() => { button.disabled = false; }, 700);
  };

  // One change at a time. What is clicked meanwhile is done on the page that comes, if it is still
  // offered there: that page knows what came before, so nothing lands out of order.
  let underWay = null;
  const waiting = [];

  const shown = (form) => [...form.elements].filter((field) => field.name && field.type !== "hidden");
  // A form is the same form when it would tell the same thing; what it has seen may differ.
  const nameOf = (element) => {
    if (!(element instanceof HTMLFormElement)) return "link " + element.getAttribute("href");
    const told = [...element.elements].filter((field) => field.type === "hidden" && !["seen", "press"].includes(field.name) && !("place" in field.dataset));
    return ["form", element.getAttribute("action"), ...told.map((field) => `${field.name}=${field.value}`)].join(" ");
  };
  const later = (element, submitter) => {
    const values = element instanceof HTMLFormElement ? shown(element).map((field) => [field.name, field.value, field.checked]) : [];
    waiting.push({ name: nameOf(element), values, button: submitter?.name ? submitter.value : null });
  };
  const say = (id, text) => {
    let bar = document.getElementById(id);
    if (!bar) {
      bar = document.createElement("p");
      bar.id = id;
      bar.setAttribute("role", "alert");
      bar.className = "notice notice-stop fixed bottom-0 inset-x-0 !p-4 text-lg";
      document.body.append(bar);
    }
    bar.textContent = text;
  };
  const goOn = () => {
    const next = waiting.shift();
    if (!next) return;
    if (document.querySelector("[role=alertdialog], [role=alert]")) {
      waiting.length = 0;
      say("dropped", "The change before was not kept, so what you did after it was not done either. Look, and do it again.");
      return;
    }
    const offered = [...document.querySelectorAll("#job form, #job a[href]")].find((element) => nameOf(element) === next.name);
    if (!offered) {
      waiting.length = 0;
      say("dropped", "The page had changed before this could be done: nothing was done. Look at the next move and do it again.");
      return;
    }
    if (!(offered instanceof HTMLFormElement)) {
      offered.click();
      return;
    }
    for (const [index, field] of shown(offered).entries()) {
      const [name, value, checked] = next.values[index] ?? [];
      if (name !== field.name) continue;
      if (field.type === "checkbox" || field.type === "radio") field.checked = checked;
      else if (field.type !== "submit") field.value = value;
    }
    const button = [...offered.elements].find((field) => next.button !== null && field.type === "submit" && field.value === next.button);
    // A button is pressed, not only named: its value goes with the form.
    if (button) button.click();
    else offered.requestSubmit();
  };

  document.addEventListener("htmx:confirm", (event) => {
    if (event.detail.target?.id !== "job") return;
    const element = event.detail.elt;
    if (!underWay) {
      underWay = element;
      begin();
      document.getElementById("dropped")?.remove();
      return;
    }
    event.preventDefault();
    later(element, event.detail.triggeringEvent?.submitter);
  });
  document.addEventListener("htmx:beforeSwap", (event) => {
    if (event.detail.target?.id !== "job") return;
    remember(event.detail.requestConfig?.elt);
    leave(event.detail.requestConfig?.elt);
  });
  document.addEventListener("htmx:afterSettle", (event) => {
    if (event.detail.elt?.id !== "job") return;
    restore();
    if (underWay?.id === "done") pause();
    underWay = null;
    document.dispatchEvent(new CustomEvent("gradimen:shown"));
    arrive();
    goOn();
  });
  document.addEventListener("htmx:sendError", () => {
    underWay = null;
    waiting.length = 0;
    say("gone", "The program did not answer: nothing was kept of this. What you typed is still here; start the program and press Enter again.");
  });
  document.addEventListener("htmx:afterRequest", (event) => {
    if (underWay === event.detail.elt) underWay = null;
    if (event.detail.successful) document.getElementById("gone")?.remove();
  });
})();
// A record follows its choices: what was typed since they were sent stays, and what was open stays open.
(() => {
  let sent = new Map();
  let open = false;
  document.addEventListener("htmx:configRequest", (event) => {
    if (event.detail.elt.id === "choices") sent = new Map([...event.detail.formData.entries()]);
  });
  document.addEventListener("htmx:beforeSwap", (event) => {
    if (event.detail.target?.id === "typical") open = document.getElementById("all")?.open ?? false;
  });
  document.addEventListener("htmx:oobBeforeSwap", (event) => {
    const field = event.detail.target;
    if (sent.get(field.name) !== field.value) event.detail.shouldSwap = false;
    else if (field === document.activeElement && field.matches("input")) {
      // The hand is in it and about to type: it takes the new value as it stands, all of it marked.
      event.detail.shouldSwap = false;
      const fresh = event.detail.fragment.querySelector(`#${field.id}`) ?? event.detail.fragment.firstElementChild;
      if (fresh && "value" in fresh) field.value = field.defaultValue = fresh.defaultValue;
      field.select();
    }
  });
  document.addEventListener("htmx:afterSwap", () => {
    const all = document.getElementById("all");
    if (all && open) all.open = true;
  });
})();
