"""Evaluate the last written build of each shop, to see whether a restored database works."""

import sys

import django


def main() -> int:
    """Print how many could be evaluated. Returns 1 where there are builds and none can be."""
    django.setup()
    from django_scopes import scopes_disabled  # noqa: PLC0415, none of these can be imported before Django is set up

    from mockup.evaluate import evaluate  # noqa: PLC0415
    from web.builds.assemble import assemble  # noqa: PLC0415
    from web.builds.models import Build  # noqa: PLC0415
    from web.builds.models.build import UnreadableError  # noqa: PLC0415
    from web.shops.models import Shop  # noqa: PLC0415

    tried = worked = 0
    with scopes_disabled():
        for shop in Shop.objects.all():
            for build in Build.objects.filter(shop=shop).order_by("-summary__touched_at")[:1]:
                tried += 1
                try:
                    evaluate(assemble(build))
                except UnreadableError as error:
                    print(f"{build.name}: {error}", file=sys.stderr)
                else:
                    worked += 1
    print(f"{worked} of {tried} builds worked out")
    return int(tried > 0 and not worked)


if __name__ == "__main__":
    sys.exit(main())
