"""The page of a report in headless Chromium: it fits, opens, prints, and asks for nothing."""

import shutil
from pathlib import Path

import pytest
from playwright.sync_api import sync_playwright

from even_sieve import Report
from even_sieve.demo.make import REPORT, write_files

CHROMIUM = shutil.which("chromium") or shutil.which("chromium-browser")
FLAGS = ["--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run",
         "--disable-background-networking", "--disable-component-update", "--disable-sync"]  # fmt: skip
pytestmark = pytest.mark.skipif(CHROMIUM is None, reason="Chromium is not on this machine")

#: What a page asks for, and what it says is wrong, is gathered while it is open.
Found = dict[str, list[str]]


@pytest.fixture(scope="module")
def page_file(tmp_path_factory):
    folder = tmp_path_factory.mktemp("page")
    write_files(folder)
    report = Report.from_file(folder / REPORT)
    (folder / "page.html").write_text(report.run().to_html())
    return folder / "page.html"


@pytest.fixture(scope="module")
def browser():
    with sync_playwright() as driver:
        chromium = driver.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
        yield chromium
        chromium.close()


@pytest.fixture
def opened(browser, page_file):
    """Return what opens the page in a window of a width, and what it asked for and complained of."""
    found: Found = {"requests": [], "complaints": []}
    pages = []

    def open_page(width: int):
        page = browser.new_page(viewport={"width": width, "height": 800})
        pages.append(page)
        page.on("request", lambda request: found["requests"].append(request.url))
        page.on("console", lambda message: found["complaints"].append(message.text))
        page.on("pageerror", lambda error: found["complaints"].append(str(error)))
        page.goto(page_file.as_uri())
        return page

    yield open_page, found
    for page in pages:
        page.close()


@pytest.mark.parametrize("width", [390, 820, 1280])
def test_the_page_fits_its_window_and_asks_for_nothing_else(opened, page_file, width):
    open_page, found = opened
    page = open_page(width)
    assert page.evaluate("document.documentElement.scrollWidth") <= width
    assert found == {"requests": [page_file.as_uri()], "complaints": []}
    assert page.title() == "Harbour dues by quarter"
    assert page.evaluate("document.compatMode") == "CSS1Compat"


def test_every_figure_opens_by_pointer_and_by_key(opened):
    page = opened[0](1280)
    figure = page.locator("details", has=page.locator("summary", has_text="36,421.69")).first
    account = figure.locator("li").first
    assert not account.is_visible()
    figure.locator("summary").click()
    assert account.is_visible()
    assert "438 rows = 12 subtotal + 18 hidden + 312 unmatched" in account.inner_text()
    page.keyboard.press("Enter")
    assert not account.is_visible()
    page.keyboard.press("Tab")
    page.keyboard.press("Enter")
    assert page.locator("details[open]").count() == 1


def test_what_reads_the_page_aloud_finds_names_for_all_of_it(opened):
    page = opened[0](1280)
    assert page.evaluate("document.documentElement.lang") == "en"
    headings = page.evaluate("[...document.querySelectorAll('h1,h2,h3')].map(h => h.tagName)")
    assert headings == ["H1", *["H2"] * 9]
    assert page.locator("main").count() == page.locator("header").count() == 1
    for section in page.locator("section").all():
        assert page.locator(f"#{section.get_attribute('aria-labelledby')}").inner_text()
    for table in page.locator("table").all():
        rows = table.locator("tbody tr").count()
        assert table.locator("thead th[scope=col]").count() > 1
        assert table.locator("tbody th[scope=row]").count() == rows
    assert all(label.startswith("Chart: ") or " rows = " in label for label in page.evaluate(
        "[...document.querySelectorAll('[role=img]')].map(each => each.getAttribute('aria-label'))"
    ))  # fmt: skip


def test_rows_that_match_stand_out_by_more_than_a_colour(opened):
    page = opened[0](1280)
    matching = page.locator("tr.match")
    assert matching.count() == 3
    assert all("matches" in row.inner_text() for row in matching.all())
    assert page.locator("tr.out").count() == 37


def test_texts_have_contrast_enough(opened):
    """Of normal text WCAG 2.2 asks for 4.5 to 1 (success criterion 1.4.3)."""
    page = opened[0](1280)
    for place in ("p.faint", "tr.out td", "tr.match td", "h2", "ul.notes li", "summary", "dt"):
        fore, ground = page.locator(place).first.evaluate("""each => {
            let up = each, ground = 'rgba(0, 0, 0, 0)';
            while (up && ground === 'rgba(0, 0, 0, 0)') {
                ground = getComputedStyle(up).backgroundColor; up = up.parentElement; }
            return [getComputedStyle(each).color, ground]; }""")
        assert contrast(fore, ground) >= 4.5, place


def contrast(*colours: str) -> float:
    def brightness(colour: str) -> float:
        channels = [int(each) / 255 for each in colour[colour.index("(") + 1 : -1].split(",")[:3]]
        linear = [c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in channels]
        return sum(weight * c for weight, c in zip((0.2126, 0.7152, 0.0722), linear, strict=True))

    low, high = sorted(map(brightness, colours))
    return (high + 0.05) / (low + 0.05)


def test_the_page_prints(opened, tmp_path):
    page = opened[0](1280)
    paper = Path(tmp_path / "page.pdf")
    page.pdf(path=paper, format="A4", print_background=True)
    assert paper.read_bytes()[:5] == b"%PDF-"
    page.emulate_media(media="print")
    assert page.locator("body").evaluate("each => getComputedStyle(each).fontSize") == "13.3333px"
