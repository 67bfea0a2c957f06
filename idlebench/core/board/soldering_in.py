"""How a new part that is no capacitor goes into its place, by its kind: a sentence a step, in the order of the hands.

Source: workshop practice, because what goes wrong here differs by kind and stands in no standard.
"""

from __future__ import annotations

#: How a part that is no capacitor goes in, by what it is, in the order of the hands.
_IN = {
    "fuse": (
        "The clips of the holder are clean and grip; change clips that do not grip",
        "The marking on the new cap is the one printed on the board: current, fast or time-lag, volts",
    ),
    "battery": (
        "Traces round the old battery are neutralised, rinsed and dry before a new one goes in",
        "On leads: fix it where nothing can run onto a board. On the board: put a barrier under it",
        "Plus to plus: check the board's plus against the rail before the cell is plugged in",
    ),
    "diode": ("Band to the printed band", "Over 1 A: fit it some mm off the board, because it gets hot", "Solder, trim, look"),
    "varistor": (
        "After the fuse, its leads in a sleeve, away from anything that burns: it fails as a short and "
        "gets hot",
        "Its continuous AC volts at least 1.1 times the mains, its disc as large as the old one's",
        "Solder, trim, look",
    ),
    "transistor": ("Pins as printed: types that look alike differ", "Compound and washer as before", "Solder, trim, look"),
    "chip": (
        "Hands to earth first; legs straight and parallel",
        "Notch to the printed notch; press it level, no leg bent under",
        "Out and in once or twice: this wipes the contacts clean",
    ),
    "resistor": (
        "Its value read with the meter before it goes in: colours fade, and a decade off is easily taken",
        "Over 1 W: fit it 5 mm off the board, because it gets hot; leads in sleeves where they may touch",
        "Solder, trim, look",
    ),
    "bleeder": (
        "Its ohms read with the meter before it goes in",
        "Off the board and away from plastic: it is warm as long as there is power",
        "Solder, trim, look",
    ),
    "thermistor": ("Its ohms read cold before it goes in", "Leads left long: it works hot", "Solder, trim, look"),
    "choke": ("Same current at least: a smaller core saturates", "Fixed so that it cannot sing or rub its wire bare", "Solder, trim, look"),
    "zener": ("Band to the printed band", "Its volts read with a current of some mA where you can", "Solder, trim, look"),
    "lamp": ("Long leg or plus to the printed plus, where it is a light-emitting diode", "Solder, trim, look: heat kills it quickly"),
    "optocoupler": ("Dot to the printed dot", "Nothing is bridged under it: the gap is the insulation", "Solder, trim, look"),
    "relay": ("Same coil volts, same contacts, same pins", "Straight down to the board, every leg through", "Solder, trim, look"),
    "switch": (
        "It turns or presses freely before it is soldered", "Straight down to the board, because the case guides it", "Solder, trim, look",
    ),
    "connector": ("Key and pin 1 as before", "One leg first, then look whether it sits straight; then the others", "Solder, trim, look"),
    "socket": (
        "Notch to the printed notch", "Two corners first, pressed down; then the other legs", "Solder, trim, look",
        "Legs of the chip cleaned before it goes back",
    ),
    "holder": ("Same size, and for the same current", "Clips grip the fuse", "Solder, trim, look"),
    "crystal": ("Its case touches nothing", "Solder quickly: heat shifts it", "Trim, look"),
    "heatsink": (
        "Both faces clean, a thin film of compound", "Washer and bush where the tab is not ground", "Screws hand tight, then half a turn",
    ),
    "fan": ("Arrow of the air as before", "Nothing reaches into its blades", "Plug with its key"),
    "speaker": ("Magnet away from the picture tube", "Marked side to the marked wire"),
    "motor": ("Pulley and belt in line", "Wires as before: the other way round it turns backwards"),
    "display": ("Never bend its foil", "Contacts wiped clean before it is pressed on"),
    "module": ("Its pins compared with the old one's, one by one", "Its volts and height compared with the place", "Plug or solder, look"),
    "trimmer": ("Turned to where the old one stood", "Solder quickly: heat harms its track", "Set again once the rails are proven"),
    "transformer": (
        "Each wire to the terminal it came from, as the dismantling log says",
        "The tap is that of the mains here; earth to the core if there was an earth",
        "Screws tight: a loose core hums",
    ),
}  # fmt: skip


def way_in_of(what: str, tab: str = "", module: bool = False, sink: bool = True) -> tuple[str, ...]:
    """What to do with a new part that is no capacitor, in the order of the hands.

    Args:
        what: what it is.
        tab: of a regulator, what its tab is joined to, "" for none.
        module: whether a switching module takes its place.
        sink: whether a heatsink can be fitted to it.

    Returns:
        A sentence a step.
    """
    if what != "regulator":
        return _IN.get(what, ("Fit it as the old one was fitted", "Solder, trim, look"))
    if module:
        return (
            "It needs no heatsink: the old heatsink stays out, or stays where it is with nothing on it",
            "Its height fits under the lid; its face points away from sound circuits and the modulator",
            "The capacitors at its input and output stay; solder, trim, inspect",
        )
    if not sink:
        return (
            "Turn it as the drawing shows: other packages have other pins in the same place",
            "3 mm of lead under it: it gives off heat to the air and down its leads",
            "Solder, trim, look",
        )
    washer = (
        "Tab and heatsink are connected here: a thin film of compound, no washer"
        if tab == "ground"
        else f"Its tab is the {tab or 'a pin you have to look up'}: washer under it, bush round the screw, compound on both faces"
    )
    return (
        "Take the old compound off; check the pads under it, and for shorts",
        washer,
        "Screw first, then solder: the pins must not carry force",
    )
