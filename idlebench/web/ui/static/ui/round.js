// A step played as rounds: one key a look. The page keeps its answers until the server has judged them, each by a key of its own.
(() => {
  const root = document.querySelector("[data-round]");
  if (!root) return;
  const facts = JSON.parse(document.getElementById("round-facts").textContent);
  const items = facts.items;
  const by = new Map(items.map((one) => [one.key, one]));
  const { draw, lit } = window.roundDrawing;
  const find = (name) => document.querySelector(`[data-round-${name}]`);
  const says = (name) => document.querySelector(`[data-in="${name}"]`);
  const id = () => [...crypto.getRandomValues(new Uint8Array(12))].map((n) => n.toString(16).padStart(2, "0")).join("");
  const play = id(), kept = `round:${root.dataset.unit}:${root.dataset.step}:`, sentAt = `sent:${root.dataset.unit}:${root.dataset.step}`;
  const token = () => JSON.parse(document.body.getAttribute("hx-headers"))["X-CSRFToken"];
  let seen = facts.seen, at = 0, shown = null, waiting = [], sending = false, sent = 0, retry = 0;

  const open = (one) => one.state !== "passed" && one.state !== "look twice" && !one.pending;
  const now = () => ({ wall: Date.now(), steady: performance.now() });
  // a machine that slept stops one of the two clocks: the later one counts
  const age = (one) => Math.max((Date.now() - one.wall) / 1000, one.page === play ? (performance.now() - one.steady) / 1000 : 0, 0);
  const save = () => {
    try {
      if (waiting.length) localStorage.setItem(kept + play, JSON.stringify({ play, answers: waiting }));
      else localStorage.removeItem(kept + play);
    } catch { /* a page without storage keeps its answers as long as it is open */ }
  };

  // ---- what is shown
  const write = (el, text) => {
    el.textContent = text || "";
    el.hidden = !text;
  };
  const mark = () => {
    for (const one of items) {
      if (!one.polarity) continue;
      const part = lit(one);
      part?.classList.add("new");
      part?.classList.toggle("seen", one.state === "passed" || !!one.pending);
      part?.classList.toggle("wrong-way", one.state === "failed" && !one.pending);
    }
    document.querySelectorAll("[data-round-row]").forEach((row) => {
      const mine = items.filter((one) => one.round === row.dataset.roundRow);
      row.querySelector("[data-round-done]").textContent = mine.filter((one) => !open(one)).length;
      row.classList.toggle("here", items[at]?.round === row.dataset.roundRow);
    });
    const left = items.filter(open).length;
    find("count").textContent = `${items.length - left} of ${items.length} done`;
    if (find("time")) find("time").parentElement.toggleAttribute("data-none", !left);
  };
  const ACT = { look: "As it should be", tone: "It beeps", number: "" };
  const show = () => {
    const one = items[at], left = items.some(open);
    mark();
    find("on").hidden = left;
    document.querySelector(".round-hand").hidden = !one;
    if (!one) return;
    find("point").textContent = left ? `: ${one.point}` : ": all done";
    for (const name of ["point", "ask", "black", "red", "limits"]) says(name).textContent = one[name];
    says("title").textContent = one.title;
    says("board").textContent = one.board ? ` · ${one.board}` : "";
    says("guards").textContent = one.guards ? ` · ${one.guards}` : "";
    write(says("caution"), one.caution);
    says("void").textContent = one.void && !one.pending ? `asked again: ${one.void}` : "";
    says("state").textContent = one.pending ? `${one.pending.typed}, being logged` : one.state === "not yet" ? "" : `${one.state}${one.typed ? `: ${one.typed}` : ""}`;
    find("leads").hidden = !one.red;
    find("limits").hidden = !one.limits;
    says("field").textContent = one.unit ? `${one.point}, ${one.unit}` : one.point;
    const act = find("act");
    const does = facts.asks_meter ? "Read by the meter" : one.polarity ? "As drawn" : ACT[one.by];
    act.hidden = !does || (!left && !open(one));
    document.querySelector("[data-round-act-says]").textContent = does;
    act.setAttribute("aria-label", `${does}: ${one.point}`);
    find("left").hidden = !one.holds;
    if (shown !== one) {
      // what is being typed stays while the server answers what went before
      shown = one;
      find("form").hidden = one.by !== "number";
      find("why").hidden = true;
      for (const name of ["round-left", "round-typed"]) document.getElementById(name).value = "";
      document.getElementById("round-typed").removeAttribute("aria-invalid");
      if (voice) speak(one);
    }
    find("no").hidden = one.by === "number";
    find("no").firstChild.textContent = one.by === "tone" ? "No tone " : one.polarity ? "Faces wrong " : "Not so ";
    find("type").hidden = one.by !== "tone";
    find("all").hidden = !(one.polarity && items.filter((other) => other.polarity && other.board === one.board && open(other)).length > 1);
    draw(one);
    if (facts.meter) setTimeout(poll);
    // the strip at the foot is made anew: other keys are bound now
    document.dispatchEvent(new Event("htmx:afterSettle"));
  };
  const go = (to) => {
    at = to;
    show();
  };
  const next = () => {
    const after = [...items.keys()].map((i) => (at + 1 + i) % items.length).find((i) => open(items[i]));
    shown = null;
    go(after === undefined ? at : after);
  };

  // ---- answers
  const answer = (one, typed, note = "") => {
    if (one.pending) return false;
    one.pending = { key: id(), check: one.key, typed, of: one.of, note, seen, page: play, ...now() };
    if (facts.measuring) Object.assign(one.pending, { left: document.getElementById("round-left").value.trim(), in_circuit: document.getElementById("round-in-circuit").checked });
    waiting.push(one.pending);
    save();
    post();
    return true;
  };
  const give = (typed, note) => {
    const one = items[at];
    if (!one) return;
    stop("");
    if (answer(one, typed, note)) next();
  };
  const stop = (text) => {
    const note = find("stop");
    write(note, text);
    if (text) note.scrollIntoView({ block: "nearest" });
  };
  const away = (text) => write(find("away"), text);
  const drop = (some) => {
    for (const one of some) {
      const item = by.get(one.check);
      if (item?.pending?.key === one.key) delete item.pending;
    }
    waiting = waiting.filter((one) => !some.includes(one));
    save();
  };

  const post = async () => {
    if (sending || !waiting.length) return;
    sending = true;
    // at most one request a second: what comes meanwhile goes with the next; under power nothing waits
    const pause = facts.live ? 0 : 1000 - (Date.now() - sent);
    if (pause > 0) await new Promise((done) => setTimeout(done, pause));
    sent = Date.now();
    const some = [...waiting];
    const told = await ask({ play, answers: some.map(sendable) });
    sending = false;
    if (told === null) return lost(some);
    away("");
    retry = 0;
    take(told, some);
    if (waiting.length) post();
  };
  const sendable = (one) => ({ key: one.key, check: one.check, typed: one.typed, of: one.of, note: one.note, seen: one.seen, left: one.left, in_circuit: one.in_circuit, age: age(one) });
  // what the server says; null where the network is away
  const ask = async (body) => {
    try {
      const found = await fetch(root.dataset.round, {
        method: "POST", body: JSON.stringify(body), headers: { "Content-Type": "application/json", "X-CSRFToken": token() },
      });
      if (found.status >= 500) return null;
      if (found.ok || found.status === 422) return await found.json();
      return { told: [], stop: { check: "", why: "This page may log nothing now.", opens: "Load it again." } };
    } catch {
      return null;
    }
  };
  const lost = (some) => {
    if (facts.live) {
      drop(some);
      show();
      stop("The network is away: nothing was logged. Under power no answer is kept. Watch the machine itself, and answer again once the network is back.");
      return;
    }
    retry = Math.min(retry + 1, 5);
    const many = waiting.length === 1 ? "1 answer is" : `${waiting.length} answers are`;
    away(`The network is away. ${many} kept in this page and sent when it is back. A discharge that is older than 60 s then is asked again.`);
    setTimeout(post, retry * 1000);
  };
  const take = (told, some) => {
    const judged = new Map(told.told.map((one) => [one.key, one]));
    const rest = some.filter((one) => !judged.has(one.key));
    drop(some.filter((one) => judged.has(one.key)));
    if (told.seen !== undefined) seen = told.seen;
    for (const [key, [state, because]] of Object.entries(told.states || {})) {
      const one = by.get(key);
      if (one) Object.assign(one, { state, void: because });
    }
    for (const one of some) {
      const item = by.get(one.check);
      if (item && judged.has(one.key)) item.typed = judged.get(one.key).typed || one.typed;
    }
    // power came or went, or must go now: the head of every page says so
    if (facts.on !== undefined && told.live !== undefined && (told.live !== facts.on || told.off_now !== facts.off_now)) {
      drop([...rest, ...waiting]);
      return location.reload();
    }
    if (told.minutes !== undefined && find("time")) find("time").textContent = told.minutes;
    if (told.stop) {
      // what was answered after it was answered on something that is not so
      const more = waiting.filter((one) => one.check !== told.stop.check);
      drop([...rest, ...waiting]);
      const place = items.findIndex((one) => one.key === told.stop.check);
      go(place < 0 ? at : place);
      const lost = more.length === 1 ? " 1 answer after it was not logged." : more.length ? ` ${more.length} answers after it were not logged.` : "";
      stop(`${told.stop.why} ${told.stop.opens}${lost}`.trim());
      // what was not understood stands in its field again, marked
      const refused = rest.find((one) => one.check === told.stop.check && items[at]?.by !== "look" && !["beeps", "meter"].includes(one.typed));
      if (refused) {
        type(refused.typed, !facts.live);
        document.getElementById("round-typed").setAttribute("aria-invalid", "true");
      }
    } else {
      save();
      write(find("said"), told.told.map((one) => one.words).filter(Boolean).pop());
      const failed = told.told.find((one) => one.state === "failed" && !one.words);
      if (failed) bad(by.get(failed.check));
      // a last answer that was judged may open the way on
      if (!open(items[at]) && items.some(open) && !items[at].pending) next();
      else show();
    }
    if (told.stop || told.told.length) sound(told.stop || told.told.some((one) => one.state === "failed") ? "failed" : "passed");
    const other = Object.keys(told.of || {});
    if (told.of && !waiting.length && (other.length !== items.length || other.some((key) => !by.has(key) || by.get(key).of !== told.of[key]))) {
      // what is asked has changed: the page is made anew where it stands
      location.replace(`?step=${encodeURIComponent(root.dataset.step)}&check=${encodeURIComponent(items[at].key)}`);
    }
  };
  const bad = (one) => {
    if (!one) return;
    const note = find("stop");
    write(note, `${one.point} is logged as not as it should be. ${one.swap ? "Power stays blocked until the part is turned." : ""}`.trim());
    if (!one.swap) return;
    const link = document.createElement("a");
    Object.assign(link, { href: one.swap, textContent: `Turn ${one.ref} at Swap`, className: "underline ml-2" });
    note.append(" ", link);
  };

  // ---- sound and voice
  const sound = (how) => {
    if (localStorage.getItem("sound") !== "on" || !window.AudioContext) return;
    const audio = new AudioContext(), tone = audio.createOscillator(), loud = audio.createGain();
    tone.frequency.value = how === "passed" ? 880 : 220;
    loud.gain.value = 0.15;
    tone.connect(loud).connect(audio.destination);
    tone.start();
    tone.stop(audio.currentTime + 0.16);
  };
  let voice = false;
  const speak = (one) => {
    speechSynthesis.cancel();
    speechSynthesis.speak(new SpeechSynthesisUtterance(`${one.point}. ${one.red ? `Red on ${one.red}.` : ""}`));
  };
  find("voice").hidden = !("speechSynthesis" in window && window.speechSynthesis.getVoices);
  find("voice").addEventListener("click", () => {
    voice = !voice;
    find("voice").firstChild.textContent = voice ? "Voice on " : "Say it aloud ";
    find("voice").setAttribute("aria-pressed", voice);
    if (voice && items[at]) speak(items[at]);
  });

  // ---- a meter that is asked four times a second: what stands still is the reading. Where leads in the air would pass, contact is
  // shown first and a key confirms; the server keeps what the meter showed and judges it.
  let watched = null, metering = false, ready = "";
  const readable = (one) => one && facts.meter.includes(one.key) && one.by !== "look";
  const poll = async () => {
    clearTimeout(watched?.timer);
    watched = null;
    const one = items[at], waits = {};
    if (ready !== one?.key) ready = "";
    find("shown").hidden = !metering || !readable(one);
    find("leads-check").hidden = find("shown").hidden || !one.air || facts.live;
    if (find("shown").hidden || document.hidden) return;
    watched = waits;
    const found = await look(one.key);
    if (watched !== waits || !metering || items[at] !== one) return;
    if (found === null || found.why) {
      says("shown").textContent = "–";
      says("contact").textContent = found?.why || "The meter cannot be reached.";
    } else {
      says("shown").textContent = found.shown;
      says("shown").classList.toggle("failed", found.steady && !found.passes);
      ready = found.steady && found.contact ? one.key : "";
      says("contact").textContent = !found.steady ? "wait until it stands still" : !found.contact ? "Leads in the air read the same: put both leads on one point and press C, then to the check." : found.lifted ? "contact shown: Space logs it" : "";
      if (ready && !found.lifted && open(one)) return give("meter");
    }
    waits.timer = setTimeout(poll, found?.why ? 2000 : 250);
  };
  const look = async (key, more = {}) => {
    try {
      const body = new URLSearchParams({ play, check: key, ...more });
      const answer = await fetch(root.dataset.meter, { method: "POST", body, headers: { "X-CSRFToken": token() } });
      return answer.status < 500 ? await answer.json() : null;
    } catch {
      return null;
    }
  };
  find("meter").hidden = !facts.meter.length;
  find("meter").addEventListener("click", () => {
    metering = !metering;
    find("meter").firstChild.textContent = metering ? "Meter on " : "Use the meter ";
    find("meter").setAttribute("aria-pressed", metering);
    find("meter").blur();
    poll();
  });
  find("leads-check").addEventListener("click", async () => {
    find("leads-check").blur();
    const found = await look(items[at].key, { leads: 1 });
    says("contact").textContent = found === null ? "The meter cannot be reached." : found.why || (found.contact ? `The leads touch: ${found.shown}. Now to the check.` : `${found.shown} across the leads: they do not touch.`);
  });
  document.addEventListener("visibilitychange", () => poll());

  // ---- keys and buttons
  const yes = () => {
    const one = items[at];
    if (one && (facts.asks_meter || (metering && readable(one) && ready === one.key))) return give("meter");
    if (one && ACT[one.by]) give(one.by === "tone" ? "beeps" : "yes");
  };
  const no = () => {
    const one = items[at];
    if (!one || one.by === "number") return;
    if (one.polarity) return give("no");
    if (one.by === "tone") return give("OL");
    find("why").hidden = false;
    document.getElementById("round-note").focus();
  };
  const type = (text = "", focus = true) => {
    find("form").hidden = false;
    const field = document.getElementById("round-typed");
    field.value = text;
    if (focus) field.focus();
  };
  find("act").addEventListener("click", yes);
  find("no").addEventListener("click", no);
  find("type").addEventListener("click", () => type());
  find("back").addEventListener("click", () => go(Math.max(0, at - 1)));
  find("all").addEventListener("click", () => {
    const board = items[at].board;
    stop("");
    items.filter((one) => one.polarity && one.board === board && open(one)).forEach((one) => answer(one, "yes"));
    next();
  });
  find("form").addEventListener("submit", (event) => {
    event.preventDefault();
    const field = document.getElementById("round-typed"), typed = field.value.trim();
    if (!typed) return;
    field.blur();
    give(typed);
  });
  find("why").addEventListener("submit", (event) => {
    event.preventDefault();
    const field = document.getElementById("round-note"), note = field.value.trim();
    field.blur();
    field.value = "";
    give("no", note);
  });
  // under a thumb the whole of what is in hand is the button, but for the drawing of polarity, where a tap is "faces wrong"
  root.addEventListener("click", (event) => {
    if (!window.matchMedia("(pointer: coarse)").matches) return;
    if (event.target.closest(".round-hand, .round-drawn") && !event.target.closest("a, button, input, label, form, .polarity")) yes();
  });
  // a part that faces wrong is one tap; any other part of the round is gone to
  root.addEventListener("click", (event) => {
    const part = event.target.closest(".round-map [data-part]");
    if (!part) return;
    event.preventDefault();
    const here = items.findIndex((one) => one.ref === part.dataset.part && part.closest(".round-map").dataset.board === one.board && one.round === items[at].round);
    if (here < 0) return;
    if (items[here].polarity && here === at) return give("no");
    go(here);
  });
  document.addEventListener("keydown", (event) => {
    if (event.ctrlKey || event.metaKey || event.altKey || document.querySelector("dialog[open]")) return;
    const on = event.target.closest?.("input, textarea, select, button, a, summary, [contenteditable]");
    // in a field letters are letters, and a button answers by itself: nothing is answered twice
    if (on) return;
    if (event.key === " " || event.key === "Enter") {
      event.preventDefault();
      if (!event.repeat) yes();
    } else if (event.key === "ArrowLeft") {
      event.preventDefault();
      go(Math.max(0, at - 1));
    } else if (event.key === "ArrowRight") {
      event.preventDefault();
      go(Math.min(items.length - 1, at + 1));
    } else if (/^[0-9.,\-−+]$/.test(event.key) && items[at]?.by !== "look") {
      event.preventDefault();
      event.stopImmediatePropagation();
      type(event.key);
    }
  }, true);
  window.addEventListener("online", () => post());

  // ---- answers of a page that was closed before they were sent: each keeps its own page's name, and is judged once
  const orphans = async () => {
    let mine = false;
    for (const name of Object.keys(localStorage).filter((key) => key.startsWith(kept) && key !== kept + play)) {
      let old;
      try { old = JSON.parse(localStorage.getItem(name)); } catch { old = null; }
      if (!old?.answers?.length || facts.live) { localStorage.removeItem(name); continue; }
      const told = await ask({ play: old.play, answers: old.answers.map(sendable) });
      if (told === null) continue;
      mine = true;
      localStorage.setItem(sentAt, Date.now());
      localStorage.removeItem(name);
      take(told, []);
    }
    // another page may have sent them after this one was made and before it looked
    if (!mine && Number(localStorage.getItem(sentAt)) >= performance.timeOrigin) anew();
  };
  const anew = async () => {
    const told = await ask({ play, answers: [] });
    if (told) take(told, []);
  };
  window.addEventListener("storage", (event) => { if (event.key === sentAt && !facts.live) anew(); });

  const begin = items.findIndex((one) => one.key === facts.begin);
  at = begin >= 0 ? begin : Math.max(0, items.findIndex(open));
  show();
  try { orphans(); } catch { /* no storage */ }
})();
