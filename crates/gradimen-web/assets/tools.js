// Feelers and rules that are tapped: a tap writes into the field in hand, a second blade makes an
// interval of two. Nothing is kept before Enter, or the second tap, which says it all.
(() => {
  let field = null;
  let passes = null;
  const fields = () => [...document.querySelectorAll("input[data-lane]")];
  const target = () => {
    if (field?.isConnected) return field;
    const marked = document.querySelector("tr.on a")?.getAttribute("aria-label")?.match(/\d+/)?.[0];
    return fields().find((input) => input.dataset.lane === marked) ?? fields()[0];
  };
  const clear = () => {
    passes = null;
    for (const blade of document.querySelectorAll("[data-set]")) delete blade.dataset.set;
  };
  // One key says that it reads as expected, where it was read before.
  const offer = () => {
    const expected = target()?.dataset.expected;
    for (const key of document.querySelectorAll("[data-as-expected]")) {
      key.hidden = expected === undefined;
      if (expected === undefined) continue;
      key.textContent = `= ${expected}`;
      key.setAttribute("aria-label", `It reads as expected: save ${expected}`);
    }
  };
  document.addEventListener("focusin", (event) => {
    if (event.target.matches?.("input[data-lane]")) {
      if (event.target !== field) clear();
      field = event.target;
      offer();
    }
  });
  const write = (text, keep) => {
    const input = target();
    if (!input) return;
    field = input;
    input.value = text;
    input.dispatchEvent(new Event("input", { bubbles: true }));
    if (keep) {
      clear();
      input.form.requestSubmit();
    } else input.focus();
  };
  // Keys for a hand without a keyboard: what is tapped is written on.
  const press = (key) => {
    const input = target();
    if (!input) return;
    field = input;
    if (key === "abc") {
      input.inputMode = "text";
      input.blur();
      input.focus();
      return;
    }
    const text = input.value;
    if (key === "del") input.value = text.slice(0, -1);
    else if (key === "sign") input.value = text.startsWith("-") ? text.slice(1) : `-${text}`;
    else input.value = text + key;
    input.dispatchEvent(new Event("input", { bubbles: true }));
    input.focus();
  };
  // The cursor stays where it is while a key is tapped.
  document.addEventListener("mousedown", (event) => {
    if (event.target.closest?.(".keypad")) event.preventDefault();
  });
  document.addEventListener("click", (event) => {
    const tool = event.target.closest?.("[data-blade], [data-rule], [data-word]");
    if (tool) {
      if (tool.dataset.rule) write(tool.dataset.rule, true);
      else if (tool.dataset.word) write(tool.dataset.word, true);
      else {
        const blade = Number(tool.dataset.blade);
        if (passes !== null && blade > passes) write(`${passes}-${blade} thou`, true);
        else {
          clear();
          passes = blade;
          tool.dataset.set = "";
          write(`${blade} thou`, false);
        }
      }
    }
    const key = event.target.closest?.("[data-key]")?.dataset.key;
    if (key) press(key);
    if (event.target.closest?.("[data-save]")) target()?.form.requestSubmit();
    if (event.target.closest?.("[data-as-expected]") && target()?.dataset.expected) write(target().dataset.expected, true);
    if (event.target.closest?.("[data-print]")) window.print();
  });
  document.addEventListener("gradimen:shown", () => { field = null; clear(); offer(); });
  document.addEventListener("DOMContentLoaded", offer);
})();
