"""What may stand in for what: kinds, mountings, safety classes, as data.

Source: IEC 60384-14:2013, 1.5, for the safety classes; the kinds are worked here from bias, leakage and ESR of each.
"""

from ..board.parts import SAFETY_MARKS, classes_of

FITS, LOOK_TWICE, FAILS = 0, 1, 2

#: Kinds that may stand for another: (old, new) → verdict and words. Roles narrow it further.
KIND_FOR_KIND: dict[tuple[str, str], tuple[int, str]] = {
    ("wet", "film"): (FITS, "Film instead of electrolytic: good where it fits"),
    ("paper", "film"): (FITS, "Film for old paper: the usual change"),
    ("wet", "polymer"): (
        LOOK_TWICE,
        "Polymer instead of electrolytic: its low ESR may make a linear regulator unstable",
    ),
    ("wet", "tantalum"): (
        LOOK_TWICE,
        "Tantalum instead of electrolytic: it needs twice the volts and no hard switch-on",
    ),
    ("wet", "ceramic"): (
        LOOK_TWICE,
        "Ceramic instead of electrolytic: it loses value with volts, and it may ring or sing",
    ),
    ("tantalum", "ceramic"): (LOOK_TWICE, "Ceramic instead of tantalum: it loses value with volts, and it may ring"),
    ("tantalum", "polymer"): (LOOK_TWICE, "Polymer for tantalum: lower ESR, and mind which side the mark is"),
    ("ceramic", "film"): (FITS, "Film for ceramic: steadier, and larger"),
    ("tantalum", "wet"): (
        LOOK_TWICE,
        "Electrolytic instead of tantalum: larger, higher ESR, and its stripe marks the other side",
    ),
}

#: Roles in which a change of kind is refused: new kind → (roles, words).
KIND_REFUSED = {
    "polymer": (
        ("timing", "reset", "coupling", "filter", "feedback", "memory_backup", "unknown"),
        "its leakage counts here, or may",
    ),
    "ceramic": (
        ("timing", "reset", "coupling", "filter", "feedback", "bulk", "deflection_coupling", "unknown"),
        "its value moves with the volts across it",
    ),
    "tantalum": (
        ("bulk", "converter_output", "startup", "boost", "tube_supply", "unknown"),
        "reservoir places and hot-plugged rails break it",
    ),
}

#: Mountings that may stand for another: (old, new) → verdict and words.
MOUNT_FOR_MOUNT: dict[tuple[str, str], tuple[int, str]] = {
    ("axial", "radial"): (
        LOOK_TWICE,
        "Radial instead of axial: lay it flat, or stand it up with its long lead in a sleeve",
    ),
    ("chip", "radial"): (LOOK_TWICE, "Radial on surface pads: lie it flat, form the leads, glue the can"),
    ("can", "radial"): (LOOK_TWICE, "Radial on surface pads: lie it flat, form the leads, glue the can"),
    ("can", "chip"): (LOOK_TWICE, "A chip on the pads of a can: both of its ends have to reach them"),
    ("chip", "can"): (LOOK_TWICE, "A can on the pads of a chip: its base covers them, see that both tabs reach"),
    ("chassis", "snap"): (LOOK_TWICE, "Snap-in for a chassis can: needs a small board or clamp"),
    ("chassis", "radial"): (
        LOOK_TWICE,
        "Radial for a chassis can: needs a small board or clamp, and each section its own part",
    ),
    ("radial", "axial"): (LOOK_TWICE, "Axial standing up: its far lead comes down next to it, in a sleeve"),
    ("chip", "chassis"): (FAILS, "A chassis can does not go onto surface pads"),
    ("screw", "snap"): (LOOK_TWICE, "Snap-in for screw terminals: needs a small board, and the current its own lugs"),
    ("can", "chassis"): (FAILS, "A chassis can does not go onto surface pads"),
    ("snap", "chassis"): (FAILS, "A chassis can does not go into snap-in holes"),
}

#: Order of safety classes: a part may be replaced by its own class or a higher one.
_RANK = {"X3": 1, "X2": 2, "X1": 3, "Y4": 1, "Y2": 4, "Y1": 5}
#: The same for every mark; one of two classes counts as the higher.
CLASS_RANK = {"": 0, **{mark: max(_RANK[name] for name in classes_of(mark)) for mark in SAFETY_MARKS}}
