"""Open every page of the database as its demo's owner, import a file, print failures."""

import sys

import django


def main() -> None:
    """Print an address and what was wrong with it, a line each."""
    django.setup()
    from django.test import Client
    from django_scopes import scopes_disabled

    from tests.web.walking import walked
    from web.builds.models import Build
    from web.shops.models import Person

    client = Client()
    with scopes_disabled():
        client.force_login(Person.objects.get(username="ottoline"))
    few = "--few" in sys.argv
    troubles, seen = walked(client, most=40 if few else 10_000)
    for address, trouble in troubles.items():
        print(address, trouble)
    if len(seen) < (40 if few else 100):
        print(f"only {len(seen)} pages were found")
    from django.core.files.uploadedfile import SimpleUploadedFile
    from django.urls import reverse

    with scopes_disabled():
        job = reverse("export", args=[Build.objects.earliest("pk").pk])
    file = SimpleUploadedFile("job.json", client.get(job).content)
    look = client.post(reverse("import"), {"file": file}, follow=True)
    if look.status_code != 200 or not look.redirect_chain:
        print("import", look.status_code)


if __name__ == "__main__":
    main()
