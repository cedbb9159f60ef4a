"""How each station's work is done at the bench: steps, tools, what goes wrong.

Common practice, no source.
"""

from collections.abc import Mapping
from dataclasses import dataclass

from mockup.base.stations import Station


@dataclass(frozen=True, slots=True)
class HowTo:
    """The work of one station. ``wrong``: what goes wrong there, and how to notice it."""

    tools: str
    steps: tuple[str, ...]
    wrong: tuple[str, ...]


HOW_TO: Mapping[Station, HowTo] = {
    Station.BLOCK: HowTo(
        "bore gauge, caliper, the makers’ sheets",
        (
            "Enter what you know: layout and cylinders are enough to begin.",
            "Measure bore and stroke where the ratio matters; the rod where the closest point does.",
            "The valve angle comes from the head’s maker, or from an angle finder on the valve stem.",
        ),
        (
            "Printed sizes are rounded.",
            "A rebored block, or another crank, is not what its data sheet says.",
        ),
    ),
    Station.TDC: HowTo(
        "degree wheel, pointer, positive stop or dial indicator",
        (
            "Bolt the wheel on and set a pointer close to it.",
            "Turn slowly to the stop one way and read the wheel; turn back to it from the other side and read again.",
            "TDC is halfway between. Set the wheel by it, or let the program subtract the error.",
            "Take the stop out before you turn past.",
        ),
        (
            "Watching a needle: the piston stands still for more than a degree either way.",
            "Chain slack: come to each reading from the running direction.",
        ),
    ),
    Station.DECK: HowTo(
        "dial indicator on a bridge, or straight edge and feelers, or a depth rod",
        (
            "Clean deck and crown.",
            "Zero the dial on the deck beside the bore, move it over the pin axis.",
            "Come up to TDC, past it, and back; read at the turn.",
            "Push each edge of the crown down in turn and read both: that is the rock. Watch that the crank stays.",
        ),
        (
            "In the hole or out of it: the sign gets lost. Say the word.",
            "The crank moves while the piston is rocked.",
            "Believing “it was never decked”, which is wrong.",
        ),
    ),
    Station.STACK: HowTo(
        "micrometer, the gasket maker’s sheet",
        (
            "Choose the gasket by the quench it gives, compressed.",
            "Decide a cut before balancing, and allow for the rock.",
            "Mark it done here once the machinist has made it; then measure again what it affected.",
        ),
        ("Free thickness taken for compressed thickness.", "Pistons cut after balancing."),
    ),
    Station.VOLUMES: HowTo(
        "burette, clear plate with two holes, grease, thin oil or tinted spirit",
        (
            "Seal the plate with a little grease; tilt it so that air leaves by the upper hole.",
            "Fill to the underside of the plate and read the burette. Fill again: the spread shows the accuracy.",
            "A domed piston: bring it down a known depth, seal the ring gap, and fill the bore above it.",
        ),
        (
            "Air left under the plate.",
            "Valves or plug not seated.",
            "A catalogue’s piston volume taken as true.",
        ),
    ),
    Station.QUENCH: HowTo(
        "nothing more: deck and gasket give it, and clay on the pads proves it",
        ("Look at every cylinder and at the highest rocked edge.", "Compare with what growth and stretch would use."),
        ("Tight cold, touching at speed.",),
    ),
    Station.MOCKUP: HowTo(
        "old head bolts, a gasket of known thickness or none, checking springs, solid lifters",
        (
            "Block hydraulic lifters solid, fit checking springs on the valves you will read.",
            "Set zero lash; note any lash that is left in.",
            "Dowels home, old bolts, torque if the figure matters.",
            "Enter the mock-up’s parts here: every reading is corrected by them.",
        ),
        (
            "A lifter that bleeds down makes every clearance look larger.",
            "Checking springs on the wrong end once the head goes to the other bank.",
            "Stretch bolts used again in the running engine.",
        ),
    ),
    Station.CAM: HowTo(
        "degree wheel set to TDC, dial indicator on the lifter or valve",
        (
            "Enter the card as it is printed.",
            "Read the wheel at the same lift going up and coming down, either side of the nose.",
            "Compare the centreline with the card; move the cam if necessary.",
            "Check that the full lift arrives at the valve.",
        ),
        ("Turning back: chain slack lies on the wrong side.", "Cam degrees taken for crank degrees."),
    ),
    Station.PUSHRODS: HowTo(
        "adjustable checking pushrod, caliper",
        (
            "Turn until the valve is on its base circle.",
            "Lengthen the checker until there is no play and no push; count the turns.",
            "Add the preload, and take the nearest length that can be bought.",
            "One adjustable checker does for all: valve after valve, the others slack meanwhile.",
            "Check the wipe pattern across the valve tip.",
        ),
        ("A slip in counting turns, or preload added twice.",),
    ),
    Station.CLAY: HowTo(
        "modelling clay, oil, sharp blade, caliper",
        (
            "Clean the crown. Lay clay in the reliefs, on the quench pads, at plug and dome; leave a third bare.",
            "Oil the valves. Head on, two full turns by hand in running direction; stop at the first hard resistance.",
            "Lift the head straight. Slice, and measure the thinnest place; read the gap at the edge too.",
            "A picture does not dent it: lay a reference beside the slice, level with the cut, and measure in that.",
            "Read more than one cylinder, and both banks.",
        ),
        (
            "Soft dough springs back; bouncing putty is useless.",
            "Clay dented by the caliper, stuck to the head, or peeled crooked.",
            "Too much clay has nowhere to go, and bends a valve.",
        ),
    ),
    Station.SWEEP: HowTo(
        "dial indicator on the retainer in line with the valve, degree wheel, or feelers",
        (
            "At firing TDC, both valves shut: push each valve to the piston once. That drop serves every cam.",
            "Turn to overlap. Exhaust from 20 BTDC to TDC, intake from TDC to 20 ATDC, in running direction.",
            "At each angle zero the dial, push the valve to the piston, read, let it come back.",
            "Go on where the program says the next reading tells most.",
        ),
        (
            "Firing TDC taken for overlap: every clearance looks larger.",
            "A dial tilted to the valve reads large.",
            "Measuring at full lift: the closest point is near overlap.",
        ),
    ),
    Station.VERDICT: HowTo(
        "the cam and piston makers’ figures",
        (
            "Choose the limits, and enter the makers’ own minimums.",
            "Open what is not clear: its corrections show where the figure comes from and what would reduce U.",
            "Sign off only what you answer for.",
        ),
        ("One cylinder checked, eight assumed.",),
    ),
    Station.RIGHT: HowTo(
        "what the shop has: gaskets, cam steps, rockers, a mill",
        (
            "Measure better first: it removes no metal.",
            "Try a change and see what else it affects.",
            "Decide it, do it, mark it done, and measure again.",
        ),
        ("Subtracting a rocker change at full lift.", "A relief cut without measuring the crown under it."),
    ),
    Station.BUY: HowTo(
        "the cams on the shelf or their cards, the piston maker’s steps and limits",
        (
            "Read the drops first: with them every cam can be compared before it is bought.",
            "Enter what the pistons must give; the sheet says what each figure rests on.",
            "Order what the maker confirms.",
        ),
        ("A cam chosen by lift alone.", "Pistons ordered by a deck that was never read."),
    ),
    Station.ASSEMBLY: HowTo(
        "new fasteners, the makers’ torque sheets",
        (
            "Go down the list: it is made from what the mock-up left in the engine.",
            "Sign the build, print the sheet, keep it with the engine.",
        ),
        ("Checking springs or solid lifters left in.", "Old bolts left in."),
    ),
}
