"""What a robot types into fields, and which field an entry of the log belongs to."""

from urllib.parse import parse_qs, urlsplit

from mockup.readings.clay import HeadSpot
from mockup.readings.deck import CrownSpot, Pushed


def for_field(name, chance):
    """A text that a field of this name reads, in a build of inches."""
    thou = chance.randrange(40, 200)
    by_kind = {
        "deck": f"{chance.randrange(1, 30)} {chance.choice(['down', 'out'])}",
        "edge": f"{chance.randrange(1, 30)} down",
        "chamber": f"{chance.randrange(600, 700) / 10}",
        "piston": f"dish {chance.randrange(10, 90) / 10}",
        "rod": f"7.{chance.randrange(300, 400)}",
        "wipe": f"{chance.randrange(90, 130)} to {chance.randrange(180, 230)} of 342",
    }
    if name == "sweep-other":
        return f"{chance.randrange(1, 30)} ATDC {thou}"
    return by_kind.get(name.partition("-")[0], str(thou))


def typed_at(page, name, text):
    """Where an entry belongs: its field, the cylinder and valve of its form, its text."""
    query = parse_qs(urlsplit(page).query)
    cylinder, valve = query.get("cylinder", [""])[0], query.get("valve", [""])[0]
    if name == "sweep-other":
        name = f"sweep-{text.partition(' ')[0]}"
    valve = "" if name == "valve-gap" else valve
    of_any_sheet = name.startswith(("deck", "edge", "chamber", "piston"))
    return (name, "" if of_any_sheet else cylinder, valve, text)


def kept_at(entry):
    """Where the log has an entry: by what it says of itself, and no code of the application."""
    data, place = entry.data, entry.data.get("place") or {}
    valve, cylinder = f"{place.get('side')}-{place.get('number')}", str(place.get("cylinder", ""))
    if entry.kind == "deck":
        spot = CrownSpot(data["spot"])
        edge = f"edge-{data['cylinder']}-{spot.name.lower()}-{Pushed(data['pushed']).name.lower()}"
        return (edge if spot.is_edge else f"deck-{data['cylinder']}", "", "", entry.typed)
    if entry.kind == "volume":
        return (f"{data['part']}-{data['cylinder'] or 'all'}", "", "", entry.typed)
    if entry.kind == "sweep":
        alone = "drop" if data["drop"] else "turning" if data["by_turning"] else f"{data['crank_deg']:g}"
        return (f"sweep-{alone}", cylinder, valve, entry.typed)
    if entry.kind == "head":
        return (f"head-{HeadSpot(data['spot']).name.lower()}", str(data["cylinder"]), "", entry.typed)
    if entry.kind == "valve-gap":
        return ("valve-gap", str(data["cylinder"]), "", entry.typed)
    names = {"clay": f"clay-{valve}-{data.get('gap')}-0", "pushrod": f"rod-{valve}"}
    return (names.get(entry.kind, f"{entry.kind}-{valve}"), cylinder, "", entry.typed)
