"""Changes of the valve train: cam moved, other rockers, lash, other pushrods."""

from dataclasses import replace

from mockup.changes import affected
from mockup.changes.change import Change, ChangeKind, EffectFrom, caution
from mockup.changes.options import Only, Range, RemedyOption, WhatIfField
from mockup.engine.valves import Side
from mockup.quantity.shown import bench_text, format_degrees, mm_text
from mockup.quantity.value import Unit

_ONE_CAM = "The lobe separation changes by half of it, and with it overlap, idle and the power band."
_BOTH = "What one valve gains the other loses, and the power band moves with the timing."


def _cam(change: Change, _unit: Unit, _ratio: float | None) -> str:
    whose = f"{change.side} cam" if change.side else "cam"
    return f"{whose} {'advanced' if change.amount > 0 else 'retarded'} {format_degrees(abs(change.amount))}"


def _rockers(change: Change, _unit: Unit, ratio: float | None) -> str:
    new = "" if ratio is None else f" of {ratio + change.amount:.3g} for {ratio:.3g}"
    return f"other rockers{new}, ratio {change.amount:+.3g}".replace("-", "−")


def _more(change: Change, more: str, less: str) -> str:
    return more if change.amount >= 0 else less


CAMSHAFT_CHANGED = ChangeKind(
    "camshaft",
    order=55,
    range=Range(low=0.0, high=0.0, words="Another cam has no amount."),
    is_length=False,
    # The drop that was read stays valid; the lift of the new lobe is another curve, and its base circle differs.
    touches={affected.FACE: EffectFrom.LOBE, affected.CAM: EffectFrom.UNKNOWN, affected.PUSHROD: EffectFrom.UNKNOWN},
    leaves=affected.OF_THE_BLOCK,
    brings_cam=True,
    since="another cam",
    in_words=lambda change, _unit, _ratio: f"another cam: {change.cam.name or 'by its card'}" if change.cam else "cam",
    again="Degree it; read the tightest valves again; check pushrod length (base circles differ), coil bind and seals.",
    caution=caution("From its card it is a prediction: measure it before final assembly."),
    of_the_train=True,
    mocks_up=lambda _change, _last: {"cam_advance_deg": 0.0, "wheel_checked": False},
    field=WhatIfField(
        name="camshaft", label="Another cam", group="Cam and rockers", order=5, help_text="from the shelf", own=True
    ),
)

CAM_MOVED = ChangeKind(
    "cam",
    order=60,
    range=Range(low=-30.0, high=30.0, words="Within 30 crank degrees either way."),
    is_length=False,
    touches={affected.FACE: EffectFrom.LOBE, affected.CAM: EffectFrom.CAM_TIMING},
    leaves=affected.OF_THE_BLOCK | {affected.PUSHROD},
    since="cam moved",
    in_words=_cam,
    again="Degree the cam; read the tightest valves again.",
    caution=lambda change: _ONE_CAM if change.side else _BOTH,
    of_the_train=True,
    mocks_up=lambda _change, _last: {"cam_advance_deg": 0.0, "wheel_checked": False},
    field=WhatIfField(
        name="cam",
        label="Cam, crank degrees",
        group="Cam and rockers",
        order=10,
        help_text="4 advances, −4 retards",
        own=True,
    ),
    remedy=RemedyOption(
        work=2.0,
        order=30,
        words="{side} cam",
        cost="about an hour: the timing cover off, degree it",
        sides=(None, *Side),
    ),
)

ROCKERS_CHANGED = ChangeKind(
    "rockers",
    order=70,
    range=Range(low=-1.0, high=1.0, words="A ratio within 1 of the old one."),
    is_length=False,
    touches={affected.FACE: EffectFrom.LOBE, affected.PUSHROD: EffectFrom.UNKNOWN},
    leaves=affected.OF_THE_BLOCK | {affected.CAM},
    since="other rockers",
    in_words=_rockers,
    again="Pushrod length and wipe pattern; read again; coil bind and retainer to seal at the new lift.",
    caution=caution("To the engine another ratio is another cam; check the stud and guide too."),
    of_the_train=True,
    remakes=lambda engine, change: replace(engine, rocker_ratio=round(engine.ratio + change.amount, 6)),
    mocks_up=lambda _change, _last: {"rocker_ratio": None},
    field=WhatIfField(name="ratio", label="Rocker ratio", group="Cam and rockers", order=20, own=True),
    remedy=RemedyOption(work=3.0, order=60, words="rockers", cost="other rockers to buy"),
)

LASH_CHANGED = ChangeKind(
    "lash",
    order=120,
    range=Range(low=-3.0, high=3.0, words=f"Lash within {mm_text(3)} of the old one."),
    of_a_side=True,
    touches={},
    leaves=affected.OF_THE_ENGINE,
    in_words=lambda change, unit, _: (
        f"{change.side} lash {bench_text(abs(change.amount), unit)} {_more(change, 'more', 'less')}"
    ),
    again="Set it hot as the cam’s maker says. No clearance counts on it.",
    of_the_train=True,
    field=WhatIfField(
        name="lash",
        label="{side} lash",
        group="Valves, lash and crowns",
        order=40,
        help_text="never counted on",
        own=True,
    ),
)

PUSHRODS_CHANGED = ChangeKind(
    "pushrods",
    order=130,
    range=Range(low=-20.0, high=20.0, words=f"Pushrods within {mm_text(20)} of the old ones."),
    # A pushrod of another length is tried on the known zero-lash length.
    touches={},
    leaves=affected.OF_THE_ENGINE,
    in_words=lambda change, unit, _: (
        f"pushrods {bench_text(abs(change.amount), unit)} {_more(change, 'longer', 'shorter')}"
    ),
    again="Try one of the new length: preload or lash, and the wipe pattern.",
    field=WhatIfField(name="pushrods", label="Pushrods, longer", group="Cam and rockers", order=30, signed=True),
    only=Only.PUSHRODS_CHOSEN,
    remedy=RemedyOption(work=1.5, order=70, words="pushrods", cost="other pushrods to buy", gain="pushrods longer"),
)
