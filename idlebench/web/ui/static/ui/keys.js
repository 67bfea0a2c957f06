// Every control with data-key answers to its key; `?` lists them, `/` finds.
(() => {
  const typing = (el) => el.closest("input, textarea, select, [contenteditable]");
  const controls = () => [...document.querySelectorAll("[data-key]")].filter((el) => el.offsetParent !== null || el.getClientRects().length);

  const press = (el) => {
    if (el.matches("input:not([type=checkbox]), textarea, select")) {
      el.focus();
      if (el.value?.endsWith(" ")) el.setSelectionRange(el.value.length, el.value.length);
      else el.select?.();
    } else if (el.matches("summary")) {
      el.parentElement.open = true;
      el.parentElement.querySelector("textarea, input:not([type=hidden])")?.focus();
    } else el.click();
  };

  const list = () => {
    const dialog = document.getElementById("all-keys");
    const body = dialog.querySelector("tbody");
    body.replaceChildren();
    for (const el of controls()) {
      const row = body.insertRow();
      const key = document.createElement("kbd");
      key.textContent = el.dataset.key;
      row.insertCell().append(key);
      row.insertCell().textContent = el.dataset.says || el.textContent.trim();
    }
    dialog.showModal();
  };

  document.addEventListener("keydown", (event) => {
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    const open = document.querySelector("dialog[open]");
    if (event.key === "Escape") {
      document.querySelectorAll(".found").forEach((el) => el.replaceChildren());
      if (typing(event.target)) event.target.blur();
      return;
    }
    if (open || typing(event.target)) return;
    if (event.key === "?") {
      event.preventDefault();
      return list();
    }
    if (event.key === "Enter" && event.target.closest("a, button, summary")) return;
    const wanted = event.key.length === 1 ? event.key.toUpperCase() : event.key;
    const el = controls().find((c) => c.dataset.key.toUpperCase() === wanted.toUpperCase());
    if (!el) return;
    event.preventDefault();
    press(el);
  });

  // on a phone the strip of stages starts at the one in hand
  document.querySelector(".spine li.here")?.scrollIntoView({ inline: "center", block: "nearest" });

  document.addEventListener("click", (event) => {
    if (event.target.closest("[data-clear]")) document.getElementById("working").replaceChildren();
    const close = event.target.closest("[data-close]");
    if (close) close.closest("dialog").close();
    const theme = event.target.closest("[data-theme-switch]");
    if (theme) {
      const next = document.documentElement.dataset.theme === "dark" ? "light" : "dark";
      document.documentElement.dataset.theme = next;
      document.cookie = `theme=${next}; path=/; max-age=31536000; samesite=strict`;
    }
    if (event.target.closest("[data-print]")) window.print();
    if (event.target.closest("[data-all-keys]")) list();
    if (!event.target.closest(".find")) document.querySelectorAll(".found").forEach((el) => el.replaceChildren());
  });
})();
