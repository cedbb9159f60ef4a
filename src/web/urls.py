"""Every address of the application."""

from django.conf import settings
from django.urls import URLPattern, URLResolver, include, path

from web.accounts.people import me, people, welcome
from web.accounts.second_factor import second_factor
from web.accounts.signing_in import SignInView, SignOutView, sign_in_code
from web.builds_list.mend import mend
from web.builds_list.views import build, builds_list, new_build, put_away
from web.entry.views import old_entries, take_entries
from web.exchange.export_pages import checks_csv, export, readings_csv, report_txt, workbook
from web.exchange.import_pages import import_build, import_look, readings_look, readings_page
from web.memory.views import alike, beside, memory
from web.page.echo import dial, understood
from web.page.glossary import glossary
from web.page.offline import manifest, no_connection, worker
from web.page.pulse import pulse
from web.page.tool_pages import moved
from web.programs.api import api, openapi
from web.programs.gauge import gauge_done, gauge_line, gauge_next, gauge_tray, gauge_unit
from web.quick.views import quick
from web.sheets.card import card_pdf, reference_card
from web.sheets.customer_sheet import shown_pdf, shown_sheet
from web.sheets.order import order_pdf, order_sheet
from web.sheets.pictures import picture_file, pictures, pictures_zip
from web.sheets.views import history, sheet, sheet_pdf
from web.shelf_pages.cams import cams
from web.shelf_pages.gauges import gauges
from web.shelf_pages.shelf import shelf
from web.stations.assembly.views import assembly
from web.stations.block.views import block
from web.stations.buy.cams import cams_for
from web.stations.buy.order import to_order
from web.stations.cam.views import cam, lobe_csv
from web.stations.clay.by_picture import measure_picture, pictures_in
from web.stations.clay.views import clay
from web.stations.deck.views import deck
from web.stations.mockup.views import mockup
from web.stations.pushrods.views import pushrods
from web.stations.put_right.explore import explore
from web.stations.put_right.search import plans
from web.stations.put_right.views import put_right, tried
from web.stations.quench.views import quench
from web.stations.stack.views import deck_chart, stack
from web.stations.sweep.views import sweep
from web.stations.tdc.views import tdc
from web.stations.verdict.views import verdict
from web.stations.volumes.views import volumes

handler500 = "web.page.errors.server_error"

urlpatterns: list[URLPattern | URLResolver] = [
    path("", builds_list, name="builds"),
    path("sign-in/", SignInView.as_view(), name="sign-in"),
    path("sign-in/code/", sign_in_code, name="sign-in-code"),
    path("sign-out/", SignOutView.as_view(), name="sign-out"),
    path("worker.js", worker, name="worker"),
    path("manifest.webmanifest", manifest, name="manifest"),
    path("no-connection/", no_connection, name="no-connection"),
    path("welcome/<str:token>/", welcome, name="welcome"),
    path("people/", people, name="people"),
    path("me/", me, name="me"),
    path("me/second-factor/", second_factor, name="second-factor"),
    path("gauge/next/", gauge_next, name="gauge-next"),
    path("gauge/done/", gauge_done, name="gauge-done"),
    path("gauge/line/", gauge_line, name="gauge-line"),
    path("gauge/tray/", gauge_tray, name="gauge-tray"),
    path("gauge/unit/", gauge_unit, name="gauge-unit"),
    path("api/openapi.json", openapi, name="openapi"),
    path("api/", api.urls),
    path("understood/", understood, name="understood"),
    path("dial/", dial, name="dial"),
    path("quick/", quick, name="quick"),
    path("glossary/", glossary, name="glossary"),
    path("memory/", memory, name="memory"),
    path("card/", reference_card, name="reference-card"),
    path("card.pdf", card_pdf, name="card-pdf"),
    path("shelf/", shelf, name="shelf"),
    path("shelf/cams/", cams, name="cams"),
    path("shelf/gauges/", gauges, name="gauges"),
    path("builds/new/", new_build, name="new-build"),
    path("builds/import/", import_build, name="import"),
    path("builds/import/<uuid:batch>/", import_look, name="import-look"),
    path("builds/<int:build_id>/", build, name="build"),
    path("builds/<int:build_id>/put-away/", put_away, name="put-away"),
    path("builds/<int:build_id>/block/", block, name="block"),
    path("builds/<int:build_id>/tdc/", tdc, name="tdc"),
    path("builds/<int:build_id>/deck/", deck, name="deck"),
    path("builds/<int:build_id>/stack/", stack, name="stack"),
    path("builds/<int:build_id>/deck-chart/", deck_chart, name="deck-chart"),
    path("builds/<int:build_id>/quench/", quench, name="quench"),
    path("builds/<int:build_id>/volumes/", volumes, name="volumes"),
    path("builds/<int:build_id>/mock-up/", mockup, name="mock-up"),
    path("builds/<int:build_id>/cam/", cam, name="cam"),
    path("builds/<int:build_id>/cam/<str:side>.csv", lobe_csv, {"ending": "csv"}, name="lobe-csv"),
    path("builds/<int:build_id>/cam/<str:side>.txt", lobe_csv, {"ending": "txt"}, name="lobe-txt"),
    path("builds/<int:build_id>/pushrods/", pushrods, name="pushrods"),
    path("builds/<int:build_id>/clay/", clay, name="clay"),
    path("builds/<int:build_id>/clay/pictures/", pictures_in, name="pictures-in"),
    path("builds/<int:build_id>/clay/pictures/<int:picture_id>/", measure_picture, name="measure-picture"),
    path("builds/<int:build_id>/pictures/", pictures, name="pictures"),
    path("builds/<int:build_id>/pictures/<int:picture_id>.jpg", picture_file, name="picture"),
    path(
        "builds/<int:build_id>/pictures/<int:picture_id>-small.jpg",
        picture_file,
        {"size": "small"},
        name="picture-small",
    ),
    path("builds/<int:build_id>/pictures.zip", pictures_zip, name="pictures-zip"),
    path("builds/<int:build_id>/indicator/", sweep, name="sweep"),
    path("builds/<int:build_id>/verdict/", verdict, name="verdict"),
    path("builds/<int:build_id>/put-right/", put_right, name="put-right"),
    path("builds/<int:build_id>/put-right/tried/", tried, name="tried"),
    path("builds/<int:build_id>/put-right/plans/", plans, name="plans"),
    path("builds/<int:build_id>/put-right/explore/", explore, name="explore"),
    path("builds/<int:build_id>/before-you-buy/", to_order, name="to-order"),
    path("builds/<int:build_id>/before-you-buy/cams/", cams_for, name="which-cam"),
    path("builds/<int:build_id>/order-sheet/", order_sheet, name="order-sheet"),
    path("builds/<int:build_id>/order-sheet.pdf", order_pdf, name="order-pdf"),
    # Their addresses before they became one page, one view and a station of their own.
    path("builds/<int:build_id>/put-right/least-work/", moved("put-right"), name="remedies"),
    path("builds/<int:build_id>/put-right/gains/", moved("explore", "gains"), name="sensitivity"),
    path("builds/<int:build_id>/put-right/room/", moved("explore", "room"), name="room"),
    path("builds/<int:build_id>/put-right/map/", moved("explore", "map"), name="map"),
    path("builds/<int:build_id>/put-right/order/", moved("to-order"), name="to-order-old"),
    path("builds/<int:build_id>/put-right/cams/", moved("which-cam"), name="which-cam-old"),
    path("builds/<int:build_id>/assembly/", assembly, name="assembly"),
    path("builds/<int:build_id>/history/", history, name="history"),
    path("builds/<int:build_id>/sheet/", sheet, name="sheet"),
    path("builds/<int:build_id>/sheet.pdf", sheet_pdf, name="sheet-pdf"),
    path("shown/<str:token>/", shown_sheet, name="shown-sheet"),
    path("shown/<str:token>/sheet.pdf", shown_pdf, name="shown-pdf"),
    path("builds/<int:build_id>/mend/", mend, name="mend"),
    path("builds/<int:build_id>/alike/", alike, name="alike"),
    path("builds/<int:build_id>/beside/<int:other_id>/", beside, name="beside"),
    path("builds/<int:build_id>/pulse/", pulse, name="pulse"),
    path("builds/<int:build_id>/entries/", take_entries, name="entries"),
    # Its old address; 307 keeps method and body, so that a page left open during an update loses nothing.
    path("builds/<int:build_id>/lines/", old_entries, name="entries-old"),
    path("builds/<int:build_id>/job.json", export, name="export"),
    path("builds/<int:build_id>/checks.csv", checks_csv, name="checks-csv"),
    path("builds/<int:build_id>/readings.csv", readings_csv, name="readings-csv"),
    path("builds/<int:build_id>/report.txt", report_txt, name="report-txt"),
    path("builds/<int:build_id>/workbook.xlsx", workbook, name="workbook"),
    path("builds/<int:build_id>/readings-in/", readings_page, name="readings-in"),
    path("builds/<int:build_id>/readings-in/<uuid:batch>/", readings_look, name="readings-look"),
]

if settings.DEMO_MODE:
    urlpatterns += [path("demo/", include("web.demo.urls"))]
