// What is typed and not saved asks before it is left: for another station, for the list of jobs, or by closing the page.
(() => {
  const typed = () => [...document.querySelectorAll("#job input, #job textarea")].filter((field) => {
    // A field that only asks for another view has nothing to be saved.
    if (field.form?.method !== "post") return false;
    if (["hidden", "checkbox", "radio", "submit", "file"].includes(field.type) || field.value.trim() === "") return false;
    return field.value !== field.defaultValue || field.getAttribute("aria-invalid") === "true";
  });
  const nameOf = (field) => (field.getAttribute("aria-label") ?? field.labels?.[0]?.textContent ?? field.name).split(". ")[0].trim();

  // Where the hand was going, once it has been asked.
  let going = null;
  let passing = false;
  const go = () => {
    const place = going;
    going = null;
    passing = true;
    window.location.href = place;
  };
  const dialog = () => document.getElementById("unsaved");
  const ask = () => {
    const [field] = typed();
    if (!field) return go();
    dialog().querySelector("[data-says]").textContent = `${nameOf(field)}: ${field.value}`;
    dialog().showModal();
  };

  document.addEventListener("click", (event) => {
    const link = event.target.closest?.("a[href]");
    if (!link || link.target === "_blank" || event.ctrlKey || event.metaKey || event.shiftKey || link.origin !== location.origin) return;
    // At the same place what is typed comes back.
    if (link.pathname === location.pathname || !document.getElementById("job") || !typed().length) return;
    event.preventDefault();
    event.stopImmediatePropagation();
    going = link.href;
    ask();
  }, true);

  document.addEventListener("click", (event) => {
    const answer = event.target.closest?.("[data-unsaved]")?.dataset.unsaved;
    if (!answer) return;
    const [field] = typed();
    dialog().close();
    if (answer === "stay" || !field) {
      going = null;
      field?.focus();
    } else if (answer === "discard") {
      for (const each of typed()) each.value = each.defaultValue = "";
      go();
    } else field.form.requestSubmit();
  });
  // Closed by the Esc key it is not answered: the hand stays.
  document.addEventListener("cancel", (event) => { if (event.target === dialog()) going = null; }, true);

  // Saved, it goes on; refused or asked about, that comes first.
  document.addEventListener("gradimen:shown", () => {
    if (!going) return;
    if (document.querySelector("[role=alertdialog], [role=alert], #job [aria-invalid='true']")) going = null;
    else ask();
  });

  window.addEventListener("beforeunload", (event) => { if (!passing && document.getElementById("job") && typed().length) event.preventDefault(); });
})();
