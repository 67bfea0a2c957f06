"""How people tell a symptom in their own words: one table for what is typed, and for what was reported at Intake.

A pattern a line; a symptom that has none here is told by its own word.
"""

from __future__ import annotations

#: What a hand does to a machine.
HAND = "touch|tapp?|prod|press|wiggl|knock|push|bump"
#: Patterns by symptom, any of which tells it, in lower case.
PATTERNS: dict[str, tuple[str, ...]] = {
    "dead": (
        r"\b(?:stone |completely |totally )?dead\b(?! key)",
        r"does(?: not|n.t) (?:come|turn|switch|power)(?: up| on)",
        r"nothing happens",
        r"no (?:power|life|lights?)",
        r"(?:will not|won.t) (?:turn|switch|power|come) (?:on|up)",
        r"not turning on",
        r"no sign of life",
    ),
    "fuse gone again": (
        r"(?:blew|blows|blown) (?:a |its |the )?fuses? again",
        r"(?:new|second|another) fuse (?:blew|went|is blown|gone)",
        r"blows every fuse",
    ),
    "fuse gone": (
        r"(?:blew|blows|blown|blowing) (?:a |its |the )?fuse",
        r"fuse (?:is |was |has )?(?:gone|blown|blew|open|went)",
        r"(?:a |the )?blown fuse",
        r"fuse keeps",
    ),
    "fuse whole": (
        r"fuse (?:is |was )?(?:whole|good|fine|intact|ok)",
        r"good fuse",
    ),
    "fan twitches": (
        r"fan (?:only )?twitch",
        r"ticks?\b",
        r"ticking",
        r"starts and stops",
        r"pulses on and off",
        r"hiccups?",
        r"cycles on and off",
    ),
    "lamp stays bright": (
        r"lamp (?:limiter )?(?:stays|remains|is|glows) (?:on )?(?:full(?:y)? |very )?bright",
        r"bulb stays (?:on|bright)",
    ),
    "hum": (
        r"\bhum(?:s|ming)?\b(?! bar)",
        r"\bbuzz(?:es|ing)?\b",
        r"mains (?:noise|tone)",
    ),
    "smell": (
        r"\bsmell",
        r"\bstink",
        r"\bstank",
        r"fish(?:y| )",
        r"burn(?:t|ing) (?:smell|odou?r)",
        r"odou?r",
    ),
    "works when warm": (
        r"\b(?:works|comes on|starts|is fine|plays|runs) (?:again |only |better )?(?:when|once|after|if) (?!(?:it is |i |you )?(?:"
        + HAND
        + r"))",
        r"(?:takes|needs) (?:\w+ )?minutes? to (?:start|come)",
        r"warms? up (?:first|before)",
        r"only when (?:it is )?(?:warm|hot)",
    ),
    "no sound": (
        r"no (?:sound|audio)",
        r"\bmute\b",
        r"\bsilent\b",
        r"nothing (?:is )?heard",
        r"speaker is dead",
        r"sound is gone",
    ),
    "weak sound": (
        r"(?:weak|quiet|faint|low) (?:sound|audio|volume)",
        r"(?:sound|audio|volume) (?:is )?(?:very |too )?(?:weak|quiet|low|faint)",
        r"barely audible",
        r"no bass",
        r"tinny",
        r"thin sound",
    ),
    "distorted": (
        r"distort",
        r"\bclips?\b",
        r"scratchy sound",
        r"sound (?:is )?(?:rough|harsh|fuzzy)",
    ),
    "motorboats": (
        r"motor ?-?boat",
        r"putt[ -]?putt",
        r"put[ -]put",
        r"thump(?:s|ing)",
        r"slow(?:ly)? pulsing sound",
    ),
    "squeals": (
        r"squeal",
        r"whistl",
        r"oscillat",
        r"howl",
        r"\bsings?\b",
        r"shriek",
        r"high[- ]pitched",
    ),
    "crackle": (
        r"crackl",
        r"scratch(?:es|ing|y)\b(?! sound)",
        r"pops?\b",
        r"popping",
        r"static noise",
        r"rustl",
    ),
    "comes when touched": (
        r"(?:comes?|works?|starts?) (?:back |only |again )?(?:when|if|while) (?:it is |i |you )?(?:" + HAND + ")",
        r"(?:sound|picture) (?:is back|returns?|comes) (?:when|if|while) (?:it is |i |you )?(?:" + HAND + ")",
        r"when (?:touched|tapped|prodded|wiggled|knocked)",
        r"intermittent",
        r"loose contact",
        r"comes and goes",
        r"cuts? (?:in and )?out",
    ),
    "keys dead": (
        r"dead keys?",
        r"keys? (?:is |are )?dead",
        r"(?:keys?|buttons?) (?:[\w,]+ ){0,6}(?:do not|don.t|does not|doesn.t|fails? to|never) (?:work|answer|respond|register)",
        r"(?:some|a few|several|two|three|one) keys? (?:fails?|missing)",
        r"(?:no|not all) keys? work",
    ),
    "wrong letters": (
        r"wrong (?:letters|characters|symbols)",
        r"garbled",
        r"garbage",
        r"random characters",
        r"strange characters",
    ),
    "does not start": (
        r"does(?: not|n.t) (?:start|boot)\b",
        r"no prompt",
        r"(?:will not|won.t) (?:start|boot)",
        r"stuck at (?:start|boot)",
        r"no boot",
    ),
    "freezes": (
        r"freez",
        r"\bhangs?\b",
        r"locks? up",
        r"crash(?:es|ed)?",
        r"stops responding",
        r"resets? (?:itself|by itself|randomly)",
    ),
    "forgets": (
        r"forgets",
        r"loses (?:its |the )?(?:time|date|settings|memory)",
        r"clock (?:is )?(?:wrong|resets?)",
        r"settings (?:are )?lost",
    ),
    "picture shakes": (r"(?:picture|image|screen|display) (?:is )?(?:shak|wobbl|jitter|trembl|unstable|jump)",),
    "picture small": (
        r"(?:picture|image) (?:is )?(?:too )?(?:small|narrow)",
        r"small picture",
        r"shrunk",
        r"does(?: not|n.t) fill the (?:screen|tube)",
    ),
    "picture breathes": (
        r"(?:picture|image) (?:breath|pump|grows|swells)",
        r"blooms? when bright",
    ),
    "dim": (
        r"\bdim\b",
        r"faint picture",
        r"(?:picture|screen) (?:is )?(?:too )?(?:dark|faint|weak)",
        r"low brightness",
    ),
    "one bright line across": (
        r"(?:bright|single|one|white|horizontal) line across",
        r"horizontal line(?: only)?",
        r"collapsed (?:vertically|to a line)",
        r"no (?:vertical|field) deflection",
    ),
    "one bright line upright": (
        r"(?:bright|single|one|white) (?:upright|vertical) line",
        r"vertical line only",
        r"no (?:horizontal|line) deflection",
    ),
    "no height at the bottom": (
        r"(?:cut off|squashed|compressed|missing) at the bottom",
        r"bottom (?:is )?(?:cut|squashed|missing|folded)",
        r"no height",
    ),
    "foldover": (
        r"fold(?:s)?[- ]?over",
        r"folded (?:at|over)",
    ),
    "hum bar": (
        r"hum bar",
        r"bars? (?:that )?(?:rolls?|wanders?|drifts?|moves?)",
        r"rolling bar",
        r"dark bar",
    ),
    "wavy edges": (
        r"wavy",
        r"edges (?:wave|bend|wobble)",
        r"bent edges",
    ),
    "out of focus": (
        r"out of focus",
        r"blurr",
        r"fuzzy picture",
        r"unsharp",
        r"soft picture",
    ),
    "leaning": (
        r"\blean(?:s|ing)\b",
        r"\btilt",
        r"slanted",
        r"crooked picture",
    ),
    "retrace lines": (
        r"retrace",
        r"flyback lines",
        r"(?:thin|bright|diagonal) lines (?:over|across) the (?:picture|screen)",
    ),
    "one colour missing": (
        r"(?:one|no|missing) (?:colou?r|red|green|blue)\b",
        r"(?:colou?r|red|green|blue) (?:is )?missing",
        r"looks (?:yellow|cyan|magenta)",
        r"(?:colou?r|hue) cast",
    ),
    "no picture, heater dark": (
        r"heater (?:is )?dark",
        r"tube (?:does not|doesn.t) glow",
        r"neck (?:is )?dark",
    ),
    "no picture, heater glows": (
        r"heater (?:glows?|is lit)",
        r"neck glows?",
    ),
    "no picture": (
        r"no (?:picture|image|video|display|raster)(?!, heater)",
        r"(?:screen|display|tube) (?:is |stays |remains )?(?:dark|black|blank)",
        r"nothing on (?:the )?(?:screen|display)",
    ),
}
#: The same as one pattern each.
TOLD: dict[str, str] = {word: "|".join(patterns) for word, patterns in PATTERNS.items()}
