"""Every main view, in both themes and at every size: one thing to be done in sight, nothing cut or off the side, axe finds nothing serious."""

import re

import pytest
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Page

from idlebench.web.practice import services as practising
from idlebench.web.proving import services as proving
from idlebench.web.records.models import Board, Unit
from idlebench.web.unit.state import unit_state
from tests.web.helpers import pass_up_to, power_at, settle

pytestmark = pytest.mark.django_db(transaction=True)


def main_views() -> dict[str, str]:
    a, b, c, *_ = Unit.objects.all()
    supply, main = Board.objects.filter(unit=b)
    monitor = Unit.objects.get(name="M")
    tried = practising.begin("bridge", "7")
    for move in ("empty", "look C14", "power lamp dummy"):
        practising.do(tried.pk, move, str(len(practising.sit(tried.pk).run.said)))
    return {
        "licences": "/licences/", "glossary": "/glossary/", "practice": "/practice/", "a practice machine": f"/practice/{tried.pk}/?place=C14",
        "bench": "/", "gather for all": "/gather/", "calendar": "/calendar/", "procedures": "/procedures/", "a procedure": "/procedures/battery-spill/", "procedures of a unit": f"/unit/{b.pk}/procedures/", "new job": "/job/new/", "shelf": "/shelf/", "reckoner": "/reckoner/", "reckoning": "/reckoner/discharge/", "ledger": "/ledger/", "figures": "/ledger/figures/",
        "intake": f"/unit/{b.pk}/intake/", "intake of c": f"/unit/{c.pk}/intake/", "survey": f"/board/{main.pk}/survey/?part=C22",
        "choose": f"/board/{supply.pk}/choose/?place=C18", "choose mains": f"/board/{supply.pk}/choose/?place=C1", "gather": f"/unit/{b.pk}/gather/", "what to ask for": f"/unit/{b.pk}/gather/ask/",
        "swap": f"/board/{supply.pk}/swap/", "swap a cell": f"/board/{main.pk}/swap/?place=BT1", "bag": f"/board/{supply.pk}/bag/", "other parts": f"/board/{main.pk}/supply/", "cold": f"/unit/{b.pk}/cold/", "suspects": f"/unit/{b.pk}/suspects/?seen=dead", "stripes": f"/board/{main.pk}/stripes/?width=8&offset=12", "power": f"/unit/{a.pk}/power/?step=full", "power shut": f"/unit/{b.pk}/power/",
        "handover": f"/unit/{a.pk}/handover/", "handover shut": f"/unit/{b.pk}/handover/", "sheet": f"/unit/{a.pk}/handover.html", "owner": f"/unit/{a.pk}/owner.html",
        "reforming": f"/part/{main.parts.get(ref='C39').pk}/reform/",
        "triage": f"/job/{b.job_id}/triage/",
        "dismantling": f"/unit/{b.pk}/dismantling/",
        "survey solder side": f"/board/{main.pk}/survey/?part=C22&side=solder&heat=1", "measure": f"/board/{main.pk}/measure/", "measure round": f"/board/{main.pk}/measure/round/",
        "round": f"/unit/{b.pk}/round/?step=cold", "round of a pin": f"/unit/{b.pk}/round/?step=cold&check=cold.pin.b{main.pk}.u5.16",
        "measure a store": f"/board/{supply.pk}/measure/?part=C7",
        "supply": f"/board/{supply.pk}/supply/", "linear supply": f"/board/{Board.objects.get(unit=a, name='PS-1').pk}/supply/", "policies": "/policies/",
        "two policies": f"/board/{supply.pk}/policies/", "compared": f"/board/{supply.pk}/choose/?place=C18&compare=1", "a part": "/shelf/part/LZ105-2200u-16/",
        "export": "/shelf/foreign/", "price list": "/gather/offers/", "reckoned supply": "/reckoner/supply/",
        "monitor suspects": f"/unit/{monitor.pk}/suspects/", "pattern": "/pattern/", "photos": f"/unit/{b.pk}/photos/", "square": f"/board/{main.pk}/square/", "found": f"/board/{main.pk}/found/", "labels": f"/job/{b.job_id}/labels/", "side by side": f"/job/{b.job_id}/side-by-side/",
    }  # fmt: skip


#: What is wrong with keys and letters of a page: a key of two meanings, a key in the strip that nothing answers to, letters under
#: 13 px outside of drawings.
KEYS_AND_LETTERS = """() => {
    const shown = e => e.getClientRects().length > 0, bound = {}, wrong = [];
    for (const e of document.querySelectorAll("[data-key]")) {
        if (shown(e) && !e.disabled) (bound[e.dataset.key] ??= new Set()).add(e.dataset.says || e.textContent.trim());
    }
    for (const [key, says] of Object.entries(bound)) if (says.size > 1) wrong.push(`${key} means ${[...says].join(" and ")}`);
    for (const key of document.querySelectorAll("footer.keys > span kbd")) {
        if (shown(key) && /^[A-Z]$/.test(key.textContent) && !bound[key.textContent]) wrong.push(`${key.textContent} is named and does nothing`);
    }
    const named = new Set([...document.querySelectorAll("footer.keys kbd")].filter(shown).map(key => key.textContent));
    for (const key of Object.keys(bound)) {
        if (/^[A-Z]$/.test(key) && document.querySelector("footer.keys") && !named.has(key)) wrong.push(`${key} is bound and not in the strip`);
    }
    // paper is measured in points
    const paper = location.pathname.endsWith(".html");
    for (const e of paper ? [] : document.querySelectorAll("body *:not(svg *)")) {
        if (!e.children.length && e.textContent.trim() && shown(e) && parseFloat(getComputedStyle(e).fontSize) < 12.99)
            wrong.push(`${getComputedStyle(e).fontSize}: ${e.tagName} ${e.textContent.trim().slice(0, 30)}`);
    }
    return wrong.slice(0, 5);
}"""


#: Arm's length, a large screen, a phone, the smallest, a desk at 200 %: there a page leads.
LEADS_AT = ((1280, 800), (1920, 1080), (390, 844), (320, 640), (640, 400))
SIZES = ((320, 640), (820, 1180), (1280, 800))
#: A page is opened once for all that is asked of it, an eighth of the pages at a time.
EIGHTHS = pytest.mark.parametrize("eighth", range(8))


#: What a page leads to: its filled actions, whether each is whole in sight with nothing on it, and which stop of Tab it is.
LEADS = """() => {
    const shown = e => e.getClientRects().length > 0 && !e.disabled;
    const outlined = /\\b(line|plain|off|brick)\\b/;
    const filled = [...document.querySelectorAll(".btn")].filter(e => shown(e) && !outlined.test(e.className) && !e.closest(".state"));
    const stops = [...document.querySelectorAll("a[href], button, input:not([type=hidden]), select, textarea, summary, [tabindex='0']")];
    // where nothing is filled while something is live, make idle is what is at hand
    const wanted = filled.length ? filled : [...document.querySelectorAll(".takes-page .btn, .is-live .state .off .btn")].slice(0, 1);
    return wanted.map(e => {
        const box = e.getBoundingClientRect(), on = document.elementFromPoint(box.x + box.width / 2, box.y + box.height / 2);
        const whole = box.top >= 0 && box.left >= 0 && box.bottom <= innerHeight + 1 && box.right <= innerWidth + 1;
        return {says: e.textContent.trim().replace(/\\s+/g, " "), seen: whole && !!on && e.contains(on),
                stop: stops.filter(s => shown(s) && s.tabIndex >= 0).indexOf(e) + 1};
    });
}"""
#: How many frames a page has to come to rest.
FRAMES = 60
#: Paper, and the pattern that fills a monitor's screen: nothing is done there.
NO_ACT = {"sheet", "owner", "pattern"}


#: Letters of drawings that do not stand out from what they lie on: the shape right before them where they lie on it, the board, or the
#: paper behind the drawing.
FAINT = """() => {
    const parts = (rgb) => (rgb.match(/[0-9.]+/g) ?? []).map(Number);
    const light = (rgb) => {
        const [r, g, b] = parts(rgb).slice(0, 3).map(v => v / 255).map(v => v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4);
        return 0.2126 * r + 0.7152 * g + 0.0722 * b;
    };
    const seen = (colour) => colour && colour.startsWith("rgb") && (parts(colour)[3] ?? 1) > 0.5;
    const beneath = (text) => {
        const box = text.getBoundingClientRect(), before = text.parentElement.querySelector(":scope > rect, :scope > circle");
        if (before && seen(getComputedStyle(before).fill)) {
            const on = before.getBoundingClientRect(), x = box.x + box.width / 2, y = box.y + box.height / 2;
            if (x > on.left && x < on.right && y > on.top && y < on.bottom) return getComputedStyle(before).fill;
        }
        const board = text.closest("svg.board")?.querySelector(".pcb");
        if (board) return getComputedStyle(board).fill;
        for (let e = text.closest("svg"); e; e = e.parentElement) {
            if (seen(getComputedStyle(e).backgroundColor)) return getComputedStyle(e).backgroundColor;
        }
        return getComputedStyle(document.body).backgroundColor;
    };
    const wrong = [];
    for (const text of location.pathname.endsWith(".html") ? [] : document.querySelectorAll("svg text")) {
        const style = getComputedStyle(text);
        if (!text.textContent.trim() || !text.getBoundingClientRect().width || style.visibility === "hidden" || !seen(style.fill)) continue;
        if (text.closest("details:not([open])")) continue;
        const [a, b] = [light(style.fill), light(beneath(text))].sort((x, y) => y - x);
        if ((a + 0.05) / (b + 0.05) < 4.5) wrong.push(`${text.textContent.trim().slice(0, 20)}: ${((a + 0.05) / (b + 0.05)).toFixed(1)}`);
    }
    return wrong.slice(0, 4);
}"""


#: Text that ends in "…" although it tells a number, a reference or a rail; and placeholders that cannot be made out.
CUT = """() => {
    const wrong = [];
    for (const e of document.querySelectorAll("body *:not(svg *)")) {
        const style = getComputedStyle(e);
        if (style.textOverflow === "ellipsis" && e.scrollWidth > e.clientWidth + 1 && /[0-9]/.test(e.textContent) && e.getClientRects().length)
            wrong.push(`cut: ${e.textContent.trim().slice(0, 60)}`);
    }
    // a number that runs out of its box lies under what stands beside it
    for (const e of document.querySelectorAll("body .num:not(svg *)")) {
        if (e.children.length || !/[0-9]/.test(e.textContent) || getComputedStyle(e).whiteSpace !== "nowrap" || e.closest(".scroll table, pre")) continue;
        if (e.getClientRects().length && getComputedStyle(e).display !== "inline" && e.scrollWidth > e.clientWidth + 1)
            wrong.push(`runs out of its box: ${e.textContent.trim().slice(0, 60)}`);
    }
    for (const e of document.querySelectorAll("svg text")) {
        const box = e.getBoundingClientRect();
        if (!e.textContent.trim() || !box.width || e.closest(".label-sheet, details:not([open])") || location.pathname.endsWith(".html")) continue;
        const drawn = e.getScreenCTM(), size = parseFloat(getComputedStyle(e).fontSize) * Math.hypot(drawn.a, drawn.b);
        if (size < 11.5) wrong.push(`${e.textContent.trim().slice(0, 20)} in a drawing: ${size.toFixed(1)} px`);
    }
    const light = (rgb) => {
        const [r, g, b] = rgb.match(/[0-9.]+/g).slice(0, 3).map(v => v / 255).map(v => v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4);
        return 0.2126 * r + 0.7152 * g + 0.0722 * b;
    };
    const under = (e) => {
        while (e && /^rgba\\(.*, 0\\)$|transparent/.test(getComputedStyle(e).backgroundColor)) e = e.parentElement;
        return light(getComputedStyle(e ?? document.body).backgroundColor);
    };
    for (const e of document.querySelectorAll("[placeholder]")) {
        if (!e.placeholder || !e.getClientRects().length) continue;
        const [a, b] = [light(getComputedStyle(e, "::placeholder").color), under(e)].sort((x, y) => y - x);
        if ((a + 0.05) / (b + 0.05) < 4.5) wrong.push(`placeholder ${e.placeholder.slice(0, 30)}: ${((a + 0.05) / (b + 0.05)).toFixed(1)}`);
    }
    return wrong.slice(0, 4);
}"""


def at_size(page: Page, width: int, height: int) -> None:
    """Make the window that large, and wait until what follows its size has followed it."""
    page.set_viewport_size({"width": width, "height": height})
    page.wait_for_function("([w, h]) => innerWidth === w && innerHeight === h", arg=[width, height])
    page.evaluate("() => new Promise(done => requestAnimationFrame(() => requestAnimationFrame(done)))")


def astray(page: Page) -> str:
    """What is wrong with the one thing to be done on a page as it stands; "" where nothing is."""
    acts = page.evaluate(LEADS)
    for _ in range(FRAMES):
        if len(acts) == 1 and acts[0]["seen"]:
            break
        # a page that has just got another size or the focus may still be on its way there
        page.evaluate("() => new Promise(done => requestAnimationFrame(done))")
        acts = page.evaluate(LEADS)
    if len(acts) != 1:
        return f"{len(acts)} filled actions: {[one['says'] for one in acts]}"
    act = acts[0]
    return (
        "" if act["seen"] and act["stop"] <= 8 else f"{act['says']}: in sight {act['seen']}, stop {act['stop']} of Tab"
    )


#: Views of a page that is looked at with other rows already, and paper: their colours are no others.
SAME_PAGE = {
    "intake of c", "choose mains", "measure a store", "power shut", "handover shut", "linear supply", "compared", "swap a cell",
    "survey solder side", "other parts", "monitor suspects", "sheet", "owner",
}  # fmt: skip


#: One text of each look: its colour, size and weight, and every colour that may lie behind it. Contrast says the same of all texts of
#: one look, and of a table of 200 rows it is asked once instead of 200 times. A text that something placed freely may cover is a look
#: of its own.
ONE_OF_EACH_LOOK = """() => {
    const looks = new Map();
    for (const e of document.querySelectorAll("body *:not(svg *)")) {
        const own = [...e.childNodes].some(n => n.nodeType === 3 && n.textContent.trim()) || e.placeholder || e.matches("input, select, textarea");
        if (!own || !e.getClientRects().length) continue;
        const style = getComputedStyle(e), look = [e.tagName, !!e.disabled, style.color, style.fontSize, style.fontWeight, style.textShadow];
        for (let up = e; up; up = up.parentElement) {
            const s = getComputedStyle(up);
            look.push(s.backgroundColor, s.backgroundImage, s.opacity, s.position === "static" ? "" : up.className);
        }
        const key = look.join("|");
        if (!looks.has(key)) looks.set(key, e);
    }
    return [...looks.values()];
}"""
AXE = Axe().axe_script
#: What axe finds that hinders somebody. asked: what of the page, or null for all of it.
RUN_AXE = """async ([asked, options]) => (await axe.run(asked ?? document, {resultTypes: ["violations"], preload: false, ...options}))
    .violations.filter(v => ["serious", "critical"].includes(v.impact)).map(v => [v.id, v.nodes.slice(0, 3).map(n => n.html.slice(0, 120))])"""
CONTRAST = "color-contrast"


def contrast(page: Page) -> list[tuple[str, list[str]]]:
    """Texts that do not stand out from what lies behind them, one of each look."""
    return page.evaluate(
        f"async () => {{ const texts = ({ONE_OF_EACH_LOOK})(); return texts.length ? ({RUN_AXE})([{{include: texts}}, {{runOnly: ['{CONTRAST}']}}]) : [] }}"
    )


def serious(page: Page) -> list[tuple[str, list[str]]]:
    """What axe finds on a page that hinders somebody."""
    if not page.evaluate("'axe' in window"):
        page.evaluate(AXE)
    return page.evaluate(RUN_AXE, [None, {"rules": {CONTRAST: {"enabled": False}}}]) + contrast(page)


@EIGHTHS
def test_every_view_leads_tells_and_fits(page: Page, demo, eighth):
    found, titles = [], {}
    for name, url in list(main_views().items())[eighth::8]:
        page.goto(url)
        if name not in SAME_PAGE and (other := titles.setdefault(page.title(), name)) != name:
            found.append((name, f"has the title of {other}: {page.title()}"))
        found += [(name, *told) for told in serious(page)]
        found += [(name, told) for told in page.evaluate(KEYS_AND_LETTERS) + page.evaluate(FAINT)]
        if name not in SAME_PAGE:
            page.evaluate("document.documentElement.dataset.theme = 'dark'")
            found += [(name, "dark", *told) for told in contrast(page)]
            found += [(name, "dark", told) for told in page.evaluate(FAINT)]
            page.evaluate("document.documentElement.dataset.theme = 'light'")
        for width, height in LEADS_AT:
            at_size(page, width, height)
            if name not in NO_ACT and (told := astray(page)):
                found.append((name, width, told))
            found += [(name, width, told) for told in page.evaluate(CUT)]
        # what is folded away runs off no side either
        page.evaluate("document.querySelectorAll('main details').forEach(fold => fold.open = true)")
        for width, height in SIZES:
            page.set_viewport_size({"width": width, "height": height})
            wide = page.evaluate("document.documentElement.scrollWidth")
            if wide > width:
                who = page.evaluate(
                    """(most) => [...document.querySelectorAll("main *")].filter(e => e.getBoundingClientRect().right > most
                    && !e.closest(".scroll")).map(e => e.tagName + " " + e.className.toString().slice(0, 60)).slice(-3)""",
                    width,
                )
                found.append((name, wide, who))
    assert not found, "\n".join(map(str, found))


def test_a_page_leads_while_it_is_asked_while_it_is_live_and_when_it_failed(page: Page, surveyed):
    """What no view of an idle bench shows: the question before power, a rail in hand, a hold that is waited for, a failure."""
    unit = surveyed.unit
    settle(unit)
    pass_up_to(unit, "full")
    here = f"/unit/{unit.pk}/power/"
    found = []

    def look(state: str, url: str) -> None:
        page.goto(url)
        for width, height in LEADS_AT:
            at_size(page, width, height)
            if told := astray(page):
                found.append((state, width, told))
            found.extend((state, width, told) for told in page.evaluate(CUT))
            if page.evaluate("document.documentElement.scrollWidth") > width:
                found.append((state, width, "runs off the side"))
        found.extend((state, *told) for told in serious(page))

    look("before power", here)
    look("asked", f"{here}?step=full&ask=full")
    power_at(unit, "full")
    look("a rail in hand", here)
    for key, text in (("volts", "5.02"), ("ripple", "12m"), ("lowest", "4.93")):
        check = next(c for c in unit_state(unit.pk).proof.step("full").checks if c.aspect == key)
        proving.take_reading(unit.pk, check.key, text)
    look("a hold that is waited for", here)
    bad = next(c for c in unit_state(unit.pk).proof.step("full").checks if c.aspect == "volts")
    proving.take_reading(unit.pk, bad.key, "6.9")
    look("a failure", here)
    for width, height in LEADS_AT:
        at_size(page, width, height)
        shown = page.get_by_role("button", name=re.compile("make idle", re.I)).count()
        assert shown == (2 if width > 860 else 1), "on a small window one Make idle, at the foot, and not two"
    look("another page while it is live", f"/board/{surveyed.pk}/swap/")
    assert not found, "\n".join(map(str, found))


def test_one_text_of_each_look_finds_what_all_texts_would(page: Page, demo):
    """Where a style makes texts faint, contrast finds it by one of each look where axe finds it on the whole page."""
    for url in ("/", "/ledger/"):
        page.goto(url)
        page.evaluate(AXE)
        assert contrast(page) == [] == page.evaluate(RUN_AXE, [None, {"runOnly": [CONTRAST]}])
        # one text of one row, deep in the page, and nothing else of its look
        page.evaluate(
            """() => { const all = [...document.querySelectorAll("main *")].filter(e => !e.children.length && e.textContent.trim() && e.getClientRects().length);
            all[Math.floor(all.length / 3)].style.setProperty("color", "#d8d8d8", "important") }"""
        )
        whole = page.evaluate(RUN_AXE, [None, {"runOnly": [CONTRAST]}])
        assert whole and contrast(page) == whole


def test_targets_by_the_bench_are_large_enough(page: Page, demo):
    """Where hands are dirty, on a phone: buttons and fields are 40 px or more."""
    page.set_viewport_size({"width": 390, "height": 844})
    views = main_views()
    for name in ("power", "swap", "cold", "survey"):
        page.goto(views[name])
        small = page.evaluate(
            """() => [...document.querySelectorAll("main .btn, main input:not([type=hidden]):not([type=checkbox])")]
                .filter(e => e.getClientRects().length).map(e => [e.innerText || e.name, e.getBoundingClientRect().height]).filter(([, h]) => h < 39.5)"""
        )
        assert not small, (name, small)
