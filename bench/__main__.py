"""`python -m bench ADDRESS`: what a person waits for, on the served demo harbour, in milliseconds."""

import os
import statistics
import sys
import time
from collections.abc import Callable, Sequence

from playwright.sync_api import Page, sync_playwright

from tools.screenshots import CHROMIUM, CHROMIUM_PATH, SIZE, sign_in

ROUNDS = 9

PLACES = {
    "Define": ("a[href='/define']", "[role=gridcell] svg"),
    "Assign": ("a[href='/assign']", "[data-account]"),
    "Limit": ("a[href='/limit']", "[role=treegrid] [data-node]"),
    "Verify": ("a[href='/verify']", "[data-expectation]"),
    "Desk": ("a[href='/desk']", "[role=treeitem]"),
    "Ledger": ("a[href='/ledger']", "main li time"),
}

KEY = """key => new Promise(done => {
    const cell = document.querySelector('[data-capability="event.move"]');
    cell.focus();
    const began = performance.now();
    const watch = new MutationObserver(() => {
        watch.disconnect();
        requestAnimationFrame(() => done(performance.now() - began));
    });
    watch.observe(cell, {subtree: true, childList: true, attributes: true, attributeFilter: ['data-hang']});
    cell.dispatchEvent(new KeyboardEvent('keydown', {key, bubbles: true}));
})"""


def main(address: str) -> None:
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM_PATH, args=CHROMIUM)
        page = browser.new_context(base_url=address, viewport=SIZE).new_page()
        sign_in(page, "odile@skerrow.example", os.environ["GONFALON_DEMO_PASSWORD"])
        for name, (link, shown) in PLACES.items():
            show(f"{name} shows its content after a click", [opened(page, link, shown) for _ in range(ROUNDS)])
        page.goto("/define/tenant-editor?cell=event.move")
        page.locator('[data-capability="event.move"]').click()
        show("the board answers a key", [page.evaluate(KEY, key) for key in "otaotaota"])
        page.goto("/assign")
        page.locator("[data-account]").first.wait_for()
        show("the roster filters by a word typed", [filtered(page, word) for word in ("marrow", "okafor", "wren") * 3])
        page.goto("/verify")
        page.get_by_text("asked just now").wait_for()
        print(f"{page.get_by_text('asked just now').inner_text()} (12 expectations, about 3,400 answers)")


def opened(page: Page, link: str, shown: str) -> float:
    page.goto("/ledger" if "ledger" not in link else "/verify")
    page.wait_for_load_state("networkidle")
    return timed(lambda: (page.locator(link).click(), page.locator(shown).first.wait_for()))


def filtered(page: Page, word: str) -> float:
    page.get_by_placeholder("Name or address").fill("")
    page.locator("[data-account]").nth(6).wait_for()
    return timed(
        lambda: (
            page.get_by_placeholder("Name or address").fill(word),
            page.locator("[data-account]:only-child").wait_for(),
        )
    )


def timed(do: Callable[[], object]) -> float:
    began = time.perf_counter()
    do()
    return (time.perf_counter() - began) * 1000


def show(what: str, times: Sequence[float]) -> None:
    print(f"{what}: median {statistics.median(times):.0f} ms, slowest {max(times):.0f} ms")


if __name__ == "__main__":
    main(sys.argv[1])
