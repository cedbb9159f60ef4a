"""What the trade's terms mean, as this program uses them.

The page and docs/glossary.md are made of this.
"""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Term:
    """One term: its key in addresses, how it is written, what it means."""

    key: str
    words: str
    meaning: str


TERMS: tuple[Term, ...] = (
    Term("axial", "face clearance", "Over the valve’s face, along its own axis; also called axial clearance."),
    Term("base-circle", "base circle", "The round part of the cam lobe: the valve is shut."),
    Term(
        "calibration",
        "calibration",
        "The comparison of an instrument with a known length: by whom, and until when it is valid.",
    ),
    Term("compressed", "compressed thickness", "A head gasket’s thickness once the head is torqued; free is before."),
    Term("compression-height", "compression height", "From the middle of the pin to the flat of the crown."),
    Term(
        "margin",
        "margin",
        "What is left above the minimum: the figure less the minimum. Inside a window, the distance to its nearer end.",
    ),
    Term("deck", "deck face", "The machined top of the block, or the rim of a separate barrel, under the head gasket."),
    Term(
        "deck-clearance",
        "deck clearance",
        "From the crown’s flat to the deck face at TDC. In the hole (down): the crown is below the deck. Out of the "
        "hole (out): above. Zero: level.",
    ),
    Term(
        "deck-sign",
        "deck sign",
        "Two schools write a crown below the deck as plus or minus; here it is written in words.",
    ),
    Term(
        "drop",
        "drop",
        "How far a shut valve could go at TDC before it meets the piston. It belongs to the engine, not to its cam.",
    ),
    Term(
        "cant",
        "cant",
        "The valve’s second lean, seen from the other side of the engine; 0 where it has none.",
    ),
    Term(
        "icl",
        "intake centreline, ICL",
        "The crank angle after TDC of the middle of the intake lobe.",
    ),
    Term(
        "ecl",
        "exhaust centreline, ECL",
        "The crank angle before TDC of the middle of the exhaust lobe.",
    ),
    Term(
        "lsa",
        "lobe separation, LSA",
        "Half of the sum of both centrelines, in cam degrees.",
    ),
    Term("lash", "lash", "Play between rocker or follower and valve. Zero lash: no play and no push."),
    Term("limits", "limits", "The set of minimums a build is judged by. Schools differ; the makers’ figures win."),
    Term("mock-up", "mock-up", "The engine put together for measuring: its gasket, lifters, springs and lash count."),
    Term("overlap", "overlap TDC", "TDC between exhaust and intake stroke: both valves are near the piston."),
    Term("firing", "firing TDC", "A full crank turn from overlap TDC: both valves are shut."),
    Term("preload", "preload", "How far a hydraulic lifter’s plunger is pushed in with the valve shut."),
    Term(
        "quench",
        "quench",
        "Flat of the crown to flat of the head at TDC: deck clearance and compressed gasket together. Also squish.",
    ),
    Term("radial", "edge clearance", "From the valve’s edge to the wall of its relief; also called radial clearance."),
    Term(
        "ratio",
        "rocker ratio",
        "Lift at the valve for one of lift at the lobe. 1 where the cam works the valve itself.",
    ),
    Term("relief", "relief", "The pocket in the crown that the valve moves into."),
    Term("rock", "rock", "How far the crown tips in its bore at TDC when one edge is pushed."),
    Term("shim", "base shim", "A spacer under a separate barrel: it raises the barrel and adds deck clearance."),
    Term(
        "u",
        "U",
        "How well a figure is known: the truth lies within figure ± U about 95 times in 100. It counts against "
        "the claim that something is clear.",
    ),
    Term(
        "inferred",
        "inferred",
        "A valve that was not read, computed from another cylinder and both decks. It never counts as measured.",
    ),
    Term(
        "as-it-will-run",
        "as it will run",
        "A reading carried to the final gasket, shims, cuts, rockers and cam; lash is never counted on.",
    ),
    Term("stale", "stale", "Read before a change that moves it: corrected by computing, and to be read again."),
    Term(
        "reference",
        "reference",
        "In a picture of cut clay: a thing of known length, level with the cut, that gives the picture its scale.",
    ),
    Term("clear", "clear", "Above the minimum even with U taken off."),
    Term("close", "too close to call", "U decides: measure better, or make room."),
    Term(
        "certainly-clear",
        "certainly clear",
        "Parts known to be mild are sometimes not checked at all. That rests on parts nobody measured: a deck cut "
        "before, a wrong gasket or a cam a tooth out is then found by the valve. This program never calls it clear.",
    ),
    Term("short", "short", "Below the minimum even with U added."),
)


def in_order() -> tuple[Term, ...]:
    """Return the terms in alphabetical order."""
    return tuple(sorted(TERMS, key=lambda term: term.words.lower()))


def as_markdown() -> str:
    """Return the glossary as a page of the docs."""
    said = "What the trade’s terms mean, as this program uses them. Made by `python -m launch.schema`."
    lines = ["# Glossary", "", said, ""]
    lines += [f"- **{term.words}**: {term.meaning}" for term in in_order()]
    return "\n".join(lines) + "\n"
