"""How long a tap of a visit takes without a signal, from a running ./run: python scripts/visit_speed.py [address].

A tap is timed in the page, from the click to the frame in which the next step is drawn; it lies on the disk by then. An
opening is timed from asking for the address to the first step, from the device alone. Both are told against the same
of an empty page: a click that writes one word, and an address that answers one word.
"""

import statistics
import sys

from playwright.sync_api import Page, sync_playwright

ADDRESS = sys.argv[1] if len(sys.argv) > 1 else "http://127.0.0.1:8000"
TAP = """async () => {
  const button = [...document.querySelectorAll('button')].find((one) => one.textContent === 'Done' && !one.disabled)
    ?? document.querySelector('[role=alert] button')
  const page = document.getElementById('root')
  const before = page.textContent
  const start = performance.now()
  button.click()
  const frame = () => new Promise((done) => requestAnimationFrame(done))
  while (page.textContent === before) await frame()
  return performance.now() - start
}"""
PLAIN = """async () => {
  document.body.innerHTML = '<button>go</button>'
  const button = document.querySelector('button')
  button.onclick = () => { button.textContent = 'gone' }
  const start = performance.now()
  button.click()
  while (button.textContent === 'go') await new Promise((done) => requestAnimationFrame(done))
  await new Promise((done) => requestAnimationFrame(done))
  return performance.now() - start
}"""
SLOWER = 4
"""A telephone's processor against a desk's, as browsers' own tools throttle it."""
TAP_BAR_MS, OPEN_BAR_MS = 100, 1000


def opened(page: Page, address: str, shown: str) -> float:
    page.goto(address, wait_until="commit")
    page.locator(shown).first.wait_for()
    return float(page.evaluate("performance.now()"))


with sync_playwright() as playwright:
    flags = ["--no-sandbox", "--disable-gpu", "--disable-background-networking"]
    browser = playwright.chromium.launch(executable_path="/usr/bin/chromium-headless-shell", args=flags)
    context = browser.new_context(viewport={"width": 390, "height": 844})
    page = context.new_page()
    page.goto(f"{ADDRESS}/sign-in")
    page.get_by_role("button", name="Technician").click()
    page.wait_for_url("**/outlook*")
    page.goto(f"{ADDRESS}/visit/4")
    page.get_by_role("button", name="Begin").wait_for()
    page.evaluate("navigator.serviceWorker.ready")
    page.reload()
    if page.get_by_role("button", name="Flush").get_attribute("aria-pressed") == "false":
        page.get_by_role("button", name="Flush").click()
        page.wait_for_timeout(800)
    page.get_by_role("button", name="Begin").click()
    page.get_by_text("step 1 of").wait_for()
    page.wait_for_timeout(2500)
    context.set_offline(True)
    context.new_cdp_session(page).send("Emulation.setCPUThrottlingRate", {"rate": SLOWER})
    opens = [opened(page, f"{ADDRESS}/visit/4", "header h1 ~ span") for _ in range(5)]
    taps = []
    while page.get_by_role("button", name="Skip step").count() and len(taps) < 60:
        # Nobody looks faster than the guide believes.
        page.wait_for_timeout(2200)
        taps.append(float(page.evaluate(TAP)))
    plain_page = context.new_page()
    context.new_cdp_session(plain_page).send("Emulation.setCPUThrottlingRate", {"rate": SLOWER})
    plain_open = [opened(plain_page, "data:text/html,<p>word</p>", "p") for _ in range(5)]
    plain = [float(plain_page.evaluate(PLAIN)) for _ in range(20)]
    browser.close()

taps.sort()
worst, middle = taps[-1], statistics.median(taps)
print(f"Processor slowed {SLOWER} times, as a telephone's.")
print(f"{len(taps)} taps without a signal: middle {middle:.0f} ms, worst {worst:.0f} ms")
empty = statistics.median(plain)
print(f"  a click on an empty page: {empty:.0f} ms; a tap is {middle / empty:.1f} of it")
print(f"  worst against the bar of {TAP_BAR_MS} ms: {worst / TAP_BAR_MS:.2f}")
print(f"a visit opened from the device, 5 times: worst {max(opens):.0f} ms")
print(f"  an empty page: {statistics.median(plain_open):.0f} ms")
print(f"  worst against the bar of {OPEN_BAR_MS} ms: {max(opens) / OPEN_BAR_MS:.2f}")
