"""What to do next, in bench order: first what is missing, then what must be put right."""

import math
from collections.abc import Iterable, Iterator, Mapping, Sequence

from mockup.base.stations import Station
from mockup.base.topics import EVERYTHING, Topic, is_asked
from mockup.checks.check import Check, Kind, Trust
from mockup.checks.compression import RATIO_HIGH_LIMIT, RATIO_LOW_LIMIT
from mockup.checks.coverage import wanted_next
from mockup.checks.pushrods import PUSHROD_CHECK
from mockup.checks.valves import RADIAL_CHECK, VALVE_KINDS
from mockup.engine.gasket import GasketState
from mockup.engine.valves import Side
from mockup.fit.cam_report import CamReport
from mockup.fit.deck_figures import DeckFigure
from mockup.fit.volume_figures import VolumeFigure
from mockup.job import Job
from mockup.limits.judge import State
from mockup.quantity.shown import format_margin, format_ratio_margin
from mockup.readings.cam_timing import DegreeReading
from mockup.readings.clay import ClayReading
from mockup.readings.deck import DeckReading
from mockup.readings.pushrods import PushrodReading
from mockup.readings.record import standing
from mockup.readings.sweep import SweepReading
from mockup.readings.tdc import TdcReading
from mockup.readings.volumes import VolumePart, VolumeReading
from mockup.report import FAILING, Step, counts, station_read_at, worst

Parts = Mapping[VolumePart, Mapping[int, VolumeFigure]]


def steps_of(
    job: Job, checks: Sequence[Check], deck: Mapping[int, DeckFigure], parts: Parts, cam: CamReport
) -> tuple[Step, ...]:
    """Return the remaining steps to final assembly, next one first (never empty)."""
    # A signed-off check is settled: nobody is sent to it again.
    open_checks = [check for check in checks if not check.signed]
    planned = list(_planned(job))
    put_right = list(_put_right(job, open_checks))
    # Parts that may touch come before any other reading, unless a change against it is already decided.
    dangers = [] if planned else [step for step, danger in put_right if danger]
    steps = (
        *dangers,
        *_asked_for(job, _tdc(job)),
        # A decided change is made before anything it affects is read again.
        *planned,
        *_asked_for(job, _deck(job, deck)),
        *(() if _stack_last(job) else _asked_for(job, _stack(job))),
        *(_asked_for(job, _volumes(job, parts)) if _ratio_matters(job) else ()),
        *_asked_for(job, _mockup(job)),
        *_asked_for(job, _cam(job, cam)),
        *_pushrods(job, open_checks),
        *_clay(job, open_checks),
        *_unproved(job, open_checks),
        *(_asked_for(job, _stack(job)) if _stack_last(job) else ()),
        *_asked(open_checks),
        *_read_again(job, open_checks),
        *_limits(open_checks),
        *(step for step, _ in put_right if step not in dangers),
    )
    return steps or (Step(Station.ASSEMBLY, f"{_settled(job, checks)} Write it down, then final assembly."),)


def _settled(job: Job, checks: Sequence[Check]) -> str:
    required = sum(check.required for check in checks)
    signed = " or signed off" if any(check.signed for check in checks) else ""
    if not required:
        return "What was asked for is read, and no limit is set for it: it is shown but not judged."
    if job.topics == EVERYTHING:
        return f"Every required check is clear{signed}: {required} of {required}."
    more = ", ".join(topic for topic in Topic if topic not in job.topics)
    return f"Clear{signed} in all that was asked: {required} of {required}. Not asked for: {more}."


def _asked_for(job: Job, steps: Iterable[Step]) -> Iterator[Step]:
    """Yield the steps at stations that belong to something this build is checked for."""
    return (step for step in steps if is_asked(step.station, job.topics))


def _ratio_matters(job: Job) -> bool:
    """Return whether the ratio is asked for or limited; otherwise nobody is sent to a burette."""
    limited = job.limits.window(RATIO_LOW_LIMIT, RATIO_HIGH_LIMIT).is_set
    return Topic.RATIO in job.checking or limited or bool(standing(job.of(VolumeReading)))


def _stack_last(job: Job) -> bool:
    """Return whether the gasket is asked for after the valves, which are as mocked up till then."""
    return not is_asked(Station.DECK, job.topics)


def _tdc(job: Job) -> Iterator[Step]:
    # A builder who has read decks found TDC some way, and clay needs no wheel, so nobody is sent back for it. Who came
    # for decks alone finds TDC by the dwell of the dial on the crown.
    if {Topic.DECK, Topic.VALVES} <= job.topics and not job.of(TdcReading) and not job.of(DeckReading):
        yield Step(Station.TDC, "Find TDC and set the degree wheel.")


def _deck(job: Job, deck: Mapping[int, DeckFigure]) -> Iterator[Step]:
    for cylinder in job.engine.cylinder_numbers:
        if cylinder not in deck:
            yield Step(Station.DECK, f"Bring {cylinder} to TDC and read its deck.", cylinder)
    again = [cylinder for cylinder, figure in deck.items() if figure.carried]
    if again:
        why = " and ".join(sorted({words for cylinder in again for words in deck[cylinder].carried}))
        yield Step(Station.DECK, f"Read the deck of {', '.join(map(str, again))} again: {why}.", again[0])


def _stack(job: Job) -> Iterator[Step]:
    for change in job.changes:
        if change.order is None and change.kind.station is Station.STACK:
            yield Step(Station.STACK, f"The {change.kind} is decided and not done: mark it once it is.")
    if job.engine.separate_barrels and not job.final_shims:
        yield Step(Station.STACK, "Choose the base shims.")
    if job.final_gasket is None and _wants_a_gasket(job):
        yield Step(Station.STACK, "Choose the final gasket.")


def _wants_a_gasket(job: Job) -> bool:
    """Return whether anything asked for needs the final gasket and it was not mocked up."""
    if not job.topics.isdisjoint({Topic.DECK, Topic.RATIO}) or not job.mockups:
        return Topic.PUSHRODS not in job.checking or len(job.checking) > 1
    return any(mockup.gasket is not None and mockup.gasket_state is not GasketState.UNKNOWN for mockup in job.mockups)


def _volumes(job: Job, parts: Parts) -> Iterator[Step]:
    for part, known in parts.items():
        missing = [cylinder for cylinder in job.engine.cylinder_numbers if cylinder not in known]
        if missing:
            which = "" if len(missing) == job.engine.cylinders else f" of {', '.join(map(str, missing))}"
            yield Step(Station.VOLUMES, f"Measure the {part} volume{which}.", missing[0])
        again = [cylinder for cylinder, figure in known.items() if figure.carried]
        if again:
            why = " and ".join(sorted({words for cylinder in again for words in known[cylinder].carried}))
            yield Step(Station.VOLUMES, f"Measure the {part} volume again: {why}.", again[0])


def _mockup(job: Job) -> Iterator[Step]:
    if not job.mockups:
        yield Step(Station.MOCKUP, "Mock up a head and enter its gasket, lifters, springs and clay.")


def _cam(job: Job, cam: CamReport) -> Iterator[Step]:
    moved = [one for one in cam.sides.values() if one.degreed and one.degreed.moved_deg]
    if moved:
        yield Step(Station.CAM, "Degree the cam again: it was moved since.")
    if (job.cam_card or job.lobe_tables) and not standing(job.of_this_cam(DegreeReading)):
        yield Step(Station.CAM, "Degree the cam: until then it is only assumed to be as on its card.")


def _pushrods(job: Job, checks: Sequence[Check]) -> Iterator[Step]:
    tried, choice = standing(job.of(PushrodReading)), job.pushrod_choice
    # A pushrod is only asked for in a build checked for pushrods.
    if not tried and Topic.PUSHRODS in job.checking:
        yield Step(Station.PUSHRODS, "Turn a checking pushrod out to zero lash.", 1)
    elif tried and choice is None and Topic.PUSHRODS in job.checking:
        yield Step(Station.PUSHRODS, "Enter what preload or lash the pushrods should leave.")
    elif tried and choice and choice.chosen_mm is None:
        yield Step(Station.PUSHRODS, "Choose the pushrods: their zero-lash length is known.")
    untried = [check for side in Side for check in _untried(job, checks, side)]
    if untried:
        labels = ", ".join(check.label.rpartition(" ")[0] for check in untried)
        yield Step(Station.PUSHRODS, f"Try the checking pushrod on {labels}.", untried[0].cylinder)


def _untried(job: Job, checks: Sequence[Check], side: Side) -> list[Check]:
    """Return the valves of a side on which a pushrod is to be tried next."""
    mine = [check for check in checks if check.kind is PUSHROD_CHECK and check.side is side and check.required]
    lacking = {check.cylinder for check in mine if not check.governing}
    wanted = wanted_next(job, {check.cylinder for check in mine} - lacking, sorted(lacking)) if lacking else []
    return [check for check in mine if not check.governing and check.cylinder in wanted]


def _clay(job: Job, checks: Sequence[Check]) -> Iterator[Step]:
    asked = [check for check in checks if check.kind in VALVE_KINDS and check.required]
    order = _clay_order(job, asked)
    missing = _unclayed(job, asked, order)
    for cylinder in (cylinder for cylinder in order if cylinder in missing):
        labels = missing[cylinder]
        if _by_indicator(job):
            # Faces go on by the method in use; an edge is only read by clay.
            faces = [label for label in labels if label not in _edges(asked)]
            labels = [label for label in labels if label not in faces]
            if faces:
                yield Step(Station.SWEEP, f"Read cylinder {cylinder} by indicator: {', '.join(faces)}.", cylinder)
        if labels:
            yield Step(Station.CLAY, f"Clay cylinder {cylinder}: {', '.join(labels)}.", cylinder)


def _by_indicator(job: Job) -> bool:
    """Return whether every valve read so far was read by indicator or feelers."""
    return bool(standing(job.of(SweepReading))) and not standing(job.of(ClayReading))


def _edges(asked: Sequence[Check]) -> set[str]:
    return {check.label for check in asked if check.kind is RADIAL_CHECK}


def _clay_order(job: Job, asked: Sequence[Check]) -> list[int]:
    """Return the cylinders to clay: those on the bench first, then the seemingly tightest."""
    begun = {one.place.cylinder for one in standing(job.of(ClayReading))}
    begun |= {one.place.cylinder for one in standing(job.of(SweepReading))}
    room: dict[int, float] = {}
    for check in asked:
        left = math.inf if check.seems_left is None else check.seems_left
        room[check.cylinder] = min(room.get(check.cylinder, math.inf), left)
    return sorted(room, key=lambda number: (number not in begun, room[number], number))


def _unclayed(job: Job, asked: Sequence[Check], order: Sequence[int]) -> dict[int, list[str]]:
    """Return the valves still to read, by cylinder, as far as the limits' coverage asks."""
    missing: dict[int, list[str]] = {}
    for kind in VALVE_KINDS:
        mine = [check for check in asked if check.kind is kind]
        unread = [check for check in mine if not check.governing]
        read = {check.cylinder for check in mine} - {check.cylinder for check in unread}
        wanted = wanted_next(job, read, order) if mine else []
        for check in unread:
            if check.cylinder in wanted:
                missing.setdefault(check.cylinder, []).append(check.label)
    return missing


def _unproved(job: Job, checks: Sequence[Check]) -> Iterator[Step]:
    """Yield the valves whose readings prove nothing as they were taken."""
    for check in checks:
        governs = check.governing
        if governs and governs.trust is not Trust.SOUND and check.state is State.NOT_MEASURED and check.required:
            station = station_read_at(job, governs)
            again = "Read on." if station is Station.SWEEP else "Clay it again."
            yield Step(station, f"{check.label} proves nothing yet ({governs.trust}). {again}", check.cylinder)


def _asked(checks: Sequence[Check]) -> Iterator[Step]:
    """Yield the steps that kinds of check ask for: not read, or the engine changed since."""
    for kind in Kind.all():
        if kind.ask and kind.station:
            mine = [check for check in checks if check.kind is kind]
            unread = [check for check in mine if check.required and not check.governing]
            stale = [check for check in mine if check.read_again]
            if unread:
                numbers = ", ".join(str(check.cylinder) for check in unread)
                yield Step(kind.station, f"{kind.ask} {numbers}.", unread[0].cylinder)
            if stale:
                why = " and ".join(sorted({words for check in stale for words in check.carried}))
                yield Step(kind.station, f"Read again: {', '.join(c.label for c in stale)}; {why}.", stale[0].cylinder)


def _read_again(job: Job, checks: Sequence[Check]) -> Iterator[Step]:
    stale = [c for c in checks if c.kind in VALVE_KINDS and c.read_again]
    for station, words in ((Station.CLAY, "Clay again"), (Station.SWEEP, "Read by indicator again")):
        found = [check for check in stale if check.governing and station_read_at(job, check.governing) is station]
        if found:
            why = " and ".join(sorted({words for check in found for words in check.carried}))
            labels = ", ".join(check.label for check in found)
            yield Step(station, f"{words}: {labels}; {why}.", found[0].cylinder)


def _limits(checks: Sequence[Check]) -> Iterator[Step]:
    kinds = {check.kind for check in checks if check.required and check.state is State.NO_MINIMUM}
    for kind in Kind.all():
        if kind in kinds:
            yield Step(Station.VERDICT, f"Enter the makers’ minimum for the {kind}.")


def _planned(job: Job) -> Iterator[Step]:
    decided = [change for change in job.changes if change.order is None and change.kind.station is not Station.STACK]
    if decided:
        kinds = ", ".join(str(change.kind) for change in decided)
        yield Step(Station.RIGHT, f"Decided and not done: {kinds}. Mark each once it is.")


def _put_right(job: Job, checks: Sequence[Check]) -> Iterator[tuple[Step, bool]]:
    """Yield what is short, over or too close, by kind, and whether parts may meet."""
    for kind in Kind.all():
        failing = [check for check in checks if check.kind is kind and check.state in FAILING and counts(check)]
        if not failing:
            continue
        check = worst(failing)
        if check.state is State.QUESTIONED:
            yield Step(Station.VERDICT, f"{check.label} is in question. {check.questioned[0]}", check.cylinder), False
            continue
        if check.margin is None and not check.touches:
            words = f"{check.label} is less than growth and stretch use, so metal will meet metal. Put it right."
            yield Step(Station.RIGHT, words, check.cylinder), check.state is State.SHORT
            continue
        if check.touches or check.margin is None:
            yield Step(Station.RIGHT, f"{check.label} touches: metal on metal. Put it right.", check.cylinder), True
            continue
        room = format_margin(check.margin, job.unit) if kind.is_length else format_ratio_margin(check.margin)
        more = f", and {len(failing) - 1} more" if len(failing) > 1 else ""
        todo = "Measure it better or make room." if check.state is State.CLOSE else "Put it right."
        if check.lapsed:
            todo += " It was signed off for another figure."
        words = f"{check.label} is {check.state}, margin {room}{more}. {todo}"
        yield Step(Station.RIGHT, words, check.cylinder), kind.meets and check.state is State.SHORT
