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

  // The strip at the foot is made from what is bound now. The page's own words come first; a letter of them that nothing answers to is
  // left out, and a bound one that they leave out is added with what its control says.
  const foot = document.querySelector("footer.keys");
  const brief = (el) => {
    // a button's own few words; of a field, or where they are many, the beginning of what it says it does
    const own = el.cloneNode(true);
    own.querySelectorAll("kbd, .small, svg").forEach((more) => more.remove());
    const text = el.matches("input, textarea, select") ? "" : own.textContent.trim().replace(/\s+/g, " ");
    const said = text && text.length <= 26 ? text : (el.dataset.says || text).split(/[:,;(]/)[0].trim();
    return /^[A-Z][a-z]/.test(said) ? said[0].toLowerCase() + said.slice(1) : said;
  };
  const strip = () => {
    const able = controls().filter((el) => !el.disabled);
    const bound = new Set(able.map((el) => el.dataset.key.toUpperCase()));
    foot?.querySelectorAll("[data-made]").forEach((words) => words.remove());
    document.querySelectorAll("footer.keys > span").forEach((words) => {
      const letters = [...words.querySelectorAll("kbd")].filter((key) => /^[A-Z]$/.test(key.textContent));
      letters.forEach((key) => { key.hidden = !bound.has(key.textContent); });
      words.hidden = letters.length > 0 && letters.every((key) => key.hidden);
    });
    if (!foot) return;
    const named = new Set([...foot.querySelectorAll("kbd")].filter((key) => !key.hidden).map((key) => key.textContent));
    for (const el of able) {
      if (!/^[A-Z]$/.test(el.dataset.key) || named.has(el.dataset.key)) continue;
      named.add(el.dataset.key);
      const words = document.createElement("span"), key = document.createElement("kbd");
      words.dataset.made = "";
      key.textContent = el.dataset.key;
      words.append(key, brief(el));
      foot.insertBefore(words, document.getElementById("key-says"));
    }
  };
  strip();
  document.addEventListener("htmx:afterSettle", strip);
  document.addEventListener("toggle", strip, true);

  // a key that does nothing here says so
  const silent = (key) => {
    const strip = document.getElementById("key-says");
    if (strip) strip.textContent = `${key} does nothing on this page now. ? lists the keys that do.`;
  };

  let early = "";
  const bound = (key) => controls().find((c) => c.dataset.key.toUpperCase() === key.toUpperCase());
  const coming = () => document.querySelector('main [aria-busy="true"][hx-get]');

  document.addEventListener("keydown", (event) => {
    // in a line that catches what is typed, the page's letters answer with Alt
    if (event.altKey && event.target.matches("[data-catches]") && bound(event.code.slice(-1))) {
      event.preventDefault();
      return press(bound(event.code.slice(-1)));
    }
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    const open = document.querySelector("dialog[open]");
    if (event.key === "Escape") {
      document.querySelectorAll(".found").forEach((el) => el.replaceChildren());
      if (typing(event.target)) event.target.blur();
      return;
    }
    // in the list of keys its own letters open what explains the words
    const listed = open?.querySelector(`[data-in-list="${event.key.toUpperCase()}"]`);
    if (listed) return listed.click();
    // F2 puts a refused line right while it is being typed
    const right = event.key === "F2" && !open && bound("F2");
    if (right) {
      event.preventDefault();
      return press(right);
    }
    if (open || typing(event.target)) return;
    if (event.key === "?") {
      event.preventDefault();
      return list();
    }
    if (event.key === "Enter" && event.target.closest("a, button, summary")) return;
    const wanted = event.key.length === 1 ? event.key.toUpperCase() : event.key;
    const el = bound(wanted);
    early = "";
    if (!el) {
      const line = /^[A-Z0-9]$/.test(wanted) && document.querySelector("[data-catches]");
      if (line) return line.focus();
      if (/^[A-Z0-9]$/.test(wanted)) coming() ? early = wanted : silent(wanted);
      return;
    }
    event.preventDefault();
    press(el);
  });

  // a part of the page that does not come says so
  for (const failed of ["htmx:responseError", "htmx:sendError"]) {
    document.addEventListener(failed, (event) => {
      if (event.target.getAttribute("aria-busy") !== "true") return;
      event.target.removeAttribute("aria-busy");
      event.target.querySelector("p").textContent = "This part could not be loaded. Load the page again.";
    });
  }

  // a key that was pressed while a part of the page was still on its way is answered by that part
  document.addEventListener("htmx:afterSettle", () => {
    if (!early || coming()) return;
    const el = bound(early);
    if (el) press(el);
    else silent(early);
    early = "";
  });

  // a line that is typed again and again keeps the keyboard after Enter, so that the next line never fires keys
  document.addEventListener("submit", (event) => {
    const el = event.target.querySelector("[data-again]");
    if (el && document.activeElement === el) sessionStorage.setItem("again", `${location.pathname} ${el.name}`);
  });
  const again = sessionStorage.getItem("again");
  sessionStorage.removeItem("again");
  if (again) {
    const [path, name] = again.split(" ");
    const el = document.querySelector(`[data-again][name="${name}"]`);
    if (path === location.pathname && el && document.activeElement === document.body) el.focus();
  }

  // the field in error has the keyboard, and what was typed in it is selected: typing again replaces it. Under power no field takes
  // the keyboard unasked: I makes idle
  const wrong = !document.querySelector(".is-live") && [...document.querySelectorAll("[aria-invalid=true]")].find((el) => el.offsetParent !== null);
  if (wrong) {
    wrong.focus();
    wrong.select?.();
  }

  // what helps a line to be typed opens with it, and stays: nothing on the page moves when the line is left, least of all under a drag
  const opened = (el) => el?.closest?.("form:has(.on-focus)")?.classList.add("opened");
  document.addEventListener("focusin", (event) => opened(event.target));
  opened(document.activeElement);

  // a long list starts at the place in hand
  document.querySelectorAll(".scroll .item.here").forEach((el) => {
    const box = el.closest(".scroll");
    box.scrollTop = Math.max(0, el.offsetTop - box.offsetTop - box.clientHeight / 2 + el.clientHeight / 2);
  });

  // on a phone the strip of stages starts at the one in hand
  document.querySelector(".stage-rail li.here")?.scrollIntoView({ inline: "center", block: "nearest" });

  document.addEventListener("click", (event) => {
    if (event.target.closest("[data-clear]")) document.getElementById("working").replaceChildren();
    const menu = event.target.closest("[data-menu]");
    if (menu) menu.setAttribute("aria-expanded", String(document.body.classList.toggle("menu-open")));
    event.target.closest("[data-unfold]")?.closest(".predicted").classList.add("unfolded");
    const close = event.target.closest("[data-close]");
    if (close) close.closest("dialog").close();
    const theme = event.target.closest("[data-theme-switch]");
    if (theme) {
      // what the machine says anyway is not kept: from then on the page follows it again
      const machine = matchMedia("(prefers-color-scheme: dark)").matches ? "dark" : "light";
      const now = document.documentElement.dataset.theme;
      const next = (now === "auto" ? machine : now) === "dark" ? "light" : "dark";
      document.documentElement.dataset.theme = next === machine ? "auto" : next;
      document.cookie = `theme=${next}; path=/; max-age=${next === machine ? 0 : 31536000}; samesite=strict`;
    }
    // a word that completes a typed line: put at its end, and the keyboard stays in the line
    const put = event.target.closest("[data-put]");
    if (put) {
      const line = put.closest("form").querySelector("[data-line]");
      line.value = `${line.value.trimEnd()} ${put.dataset.put}`.trimStart() + (/[0-9a-z]$/.test(put.dataset.put) ? " " : "");
      line.focus();
      line.dispatchEvent(new Event("input", { bubbles: true }));
    }
    const skip = event.target.closest("[data-skip]");
    const act = skip && document.querySelector(".btn.act, .takes-page .btn");
    if (act) {
      event.preventDefault();
      act.focus();
    }
    if (event.target.closest("[data-print]")) window.print();
    if (event.target.closest("[data-all-keys]")) list();
    if (!event.target.closest(".find")) document.querySelectorAll(".found").forEach((el) => el.replaceChildren());
  });
})();
