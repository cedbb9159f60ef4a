"""A measured lobe as CSV, and back through the same reading a pasted table gets: two columns, degrees and mm."""

from mockup.engine.cam import LobeTable


def write_lobe_csv(table: LobeTable) -> str:
    """The table's text: a heading that names the units, then one angle [deg] and lift [mm] a line."""
    rows = zip(table.angles_deg, table.lifts_mm, strict=True)
    return "crank angle (deg),lift (mm)\n" + "".join(f"{angle:.12g},{lift:.12g}\n" for angle, lift in rows)
