// What is drawn of the check in hand: its board with the place lit, its chip, and a new part large with its signs.
window.roundDrawing = (() => {
  const large = (one) => {
    const svg = document.querySelector("[data-round-large]"), part = one.polarity && lit(one)?.querySelector("g");
    svg.toggleAttribute("hidden", !part);
    svg.replaceChildren();
    if (!part) return;
    const copy = part.cloneNode(true);
    svg.append(copy);
    const box = copy.getBBox(), size = Math.max(box.width, box.height) / 2 || 5, turn = /rotate\(([-\d.]+)/.exec(copy.getAttribute("transform") || "")?.[1] || 0;
    const reach = size * 1.55, rad = (turn * Math.PI) / 180;
    for (const [sign, way] of [["−", 1], ["+", -1]]) {
      const text = document.createElementNS("http://www.w3.org/2000/svg", "text");
      text.textContent = sign;
      text.setAttribute("x", way * Math.cos(rad) * size * 1.3);
      text.setAttribute("y", way * Math.sin(rad) * size * 1.3);
      text.setAttribute("font-size", size * 0.55);
      svg.append(text);
    }
    svg.setAttribute("viewBox", `${-reach} ${-reach} ${2 * reach} ${2 * reach}`);
  };
  const map = (one) => [...document.querySelectorAll(".round-map")].find((el) => el.dataset.board === one.board && el.dataset.drawnSide === one.side);
  const lit = (one) => (one.ref && map(one)?.querySelector(`[data-part="${CSS.escape(one.ref)}"], [data-chip="${CSS.escape(one.ref)}"], [data-device="${CSS.escape(one.ref)}"]`)) || null;
  const draw = (one) => {
    document.querySelectorAll(".round-chip").forEach((el) => { el.hidden = el.dataset.ofCheck !== one.key; });
    document.querySelectorAll(".round-map").forEach((el) => {
      const mine = el === map(one) && !!one.ref;
      el.hidden = !mine;
      el.classList.toggle("polarity", mine && one.polarity);
      el.querySelectorAll(".lit-now").forEach((part) => part.classList.remove("lit-now"));
    });
    lit(one)?.classList.add("lit-now");
    large(one);
  };
  return { draw, lit };
})();
