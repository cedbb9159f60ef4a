"""A measured lobe as CSV or plain columns, and back through the same reading a pasted table gets: degrees and mm."""

from mockup.engine.cam import LobeTable


def write_lobe_csv(table: LobeTable, between: str = ",") -> str:
    """The table's text: a heading that names the units, then one angle [deg] and lift [mm] a line.

    ``between``: what parts the columns; a tab for programs that read plain columns.
    """
    rows = zip(table.angles_deg, table.lifts_mm, strict=True)
    lines = [f"crank angle (deg){between}lift (mm)", *(f"{angle:.12g}{between}{lift:.12g}" for angle, lift in rows)]
    return "\n".join(lines) + "\n"
