"""Forms as tests post them."""

from django.urls import reverse

from web.page.build_form import BuildForm, initial_of

NEW = {
    "name": "Tern", "subtitle": "", "unit": "in", "deck_sign": "down-positive", "limits": "street", "layout": "vee",
    "numbering": "by-bank", "cylinders": "8", "bore_mm": "4.030", "stroke_mm": "3.48", "rod_length_mm": "145mm",
    "pin_offset_mm": "-60", "rocker_ratio": "1.5", "intake_count": "1", "intake_angle_deg": "20", "intake_cant_deg": "",
    "intake_relief": "parallel", "exhaust_count": "1", "exhaust_angle_deg": "20", "exhaust_cant_deg": "4",
    "exhaust_relief": "flat",
}  # fmt: skip


def shown_in_the_form(built):
    form = BuildForm(initial=initial_of(built))
    return {name: form[name].value() for name in form.fields}


def put(bench, **posted):
    return bench.post(reverse("shelf"), {"unit": "mm"} | posted)


LEAST = {
    "name": "Tern", "unit": "in", "deck_sign": "down-positive", "limits": "street", "layout": "inline",
    "numbering": "alternate", "cylinders": "4", "intake_count": "1", "exhaust_count": "1",
    "intake_relief": "parallel", "exhaust_relief": "parallel",
}  # fmt: skip


CARD = {
    "card": "1", "lsa_deg": "110", "icl_deg": "106", "advance_deg": "", "two_cams": "", "events_at": "",
    **{
        f"{side}_{name}": value
        for side in ("intake", "exhaust")
        for name, value in {
            "lift": "300", "duration_1": "264", "at_1": "20", "duration_2": "226", "at_2": "50", "duration_3": "",
            "at_3": "", "lash_mm": "16", "opens_deg": "", "closes_deg": "",
        }.items()
    },
}  # fmt: skip


MOCKUP = {
    "gasket_state": "compressed", "gasket_mm": "39", "bolts": "snugged", "lifters": "blocked", "springs": "checking",
    "lash_mm": "", "lash_at": "valve", "clay": "modelling", "two_turns": "yes", "lash_exhaust_mm": "", "head": "",
    "fasteners": "old", "blocked_how": "", "rocker_ratio": "", "caps_as_run": "yes", "cam_advance_deg": "",
    "wheel_checked": "no", "pistons": "not noted", "overlap": "both valves moving", "dial_turns": "turns counter",
}  # fmt: skip


PLAIN_MOCKUP = {
    "gasket_state": "unknown", "bolts": "snugged", "lifters": "blocked", "springs": "checking", "lash_at": "valve",
    "clay": "modelling", "fasteners": "old", "pistons": "not noted", "two_turns": "yes", "caps_as_run": "yes",
    "wheel_checked": "no", "overlap": "both valves moving", "dial_turns": "turns counter",
}  # fmt: skip
