"""A measured lobe as CSV or plain columns, in degrees and mm, as it is pasted."""

from mockup.engine.cam import LobeTable


def write_lobe_csv(table: LobeTable, between: str = ",") -> str:
    """Return the table's text: a heading with units, then an angle [deg] and lift [mm] a line.

    ``between``: the column separator; a tab for programs that read plain columns.
    """
    rows = zip(table.angles_deg, table.lifts_mm, strict=True)
    lines = [f"crank angle (deg){between}lift (mm)", *(f"{angle:.12g}{between}{lift:.12g}" for angle, lift in rows)]
    return "\n".join(lines) + "\n"
