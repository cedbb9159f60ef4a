"""The quantities that a change can alter; a kind of reading may declare one more."""

from mockup.changes.change import Affected, Along, EffectFrom, OfValve, Volume

DECK = Affected("deck", order=10, takes=(Along,))
FACE = Affected("face", order=20, takes=(Along, OfValve, EffectFrom))
EDGE = Affected("edge", order=30, takes=(Along, OfValve))
CROWN = Affected("crown to head", order=40, takes=(Along,))
PAD = Affected("quench pad", order=50, takes=(Along,))
CHAMBER = Affected("chamber volume", order=60, takes=(Volume,))
PISTON = Affected("piston volume", order=70, takes=(Volume,))
CAM = Affected("cam timing", order=80, takes=(EffectFrom,))
PUSHROD = Affected("pushrod length", order=90, takes=(Along, EffectFrom))

OF_THE_BLOCK = frozenset({DECK, EDGE, CROWN, PAD, CHAMBER, PISTON})
"""What no change of the valve train alters."""
OF_THE_ENGINE = OF_THE_BLOCK | {FACE, CAM, PUSHROD}
"""All of them."""
