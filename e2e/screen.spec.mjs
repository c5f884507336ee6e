// One screenful: what is to be done next, its buttons and the field in hand are seen without scrolling on the bench's screen.
import { demoJob, expect, test } from "./bench.mjs";

const STATIONS = ["intake", "strings", "balance", "relief", "nut", "action", "intonation", "pickups", "clearance", "plan", "whatif"];

test("at 1280 by 800 the next move, its buttons and the field in hand are never below the fold", async ({ page, demo }) => {
  test.setTimeout(120_000);
  await page.setViewportSize({ width: 1280, height: 800 });
  let seen = 0;
  for (const name of ["heron", "wren", "bittern", "dunlin", "curlew", "siskin", "osprey", "knot", "avocet", "lapwing", "stonechat", "gannet"]) {
    const job = await demoJob(page, demo.address, name);
    for (const station of STATIONS) {
      const answer = await page.goto(`${job}/${station}`);
      // Not every instrument has every station.
      if (answer.status() !== 200) continue;
      const below = await page.evaluate(() => {
        const parts = [document.querySelector("main h2"), ...document.querySelectorAll(".acts .btn"), document.activeElement?.matches("input") ? document.activeElement : null];
        const shown = parts.filter((part) => part?.getBoundingClientRect().height);
        return shown.filter((part) => part.getBoundingClientRect().bottom > innerHeight).map((part) => part.textContent.trim() || part.id);
      });
      expect(below, `${name}, ${station}`).toEqual([]);
      seen += 1;
    }
  }
  expect(seen).toBeGreaterThan(100);
});

test("what reads as expected is told by one key, and only where it was read before", async ({ page, demo }) => {
  const job = await demoJob(page, demo.address, "heron");
  await page.goto(`${job}/intonation?string=2&focus=reading-2`);
  const field = page.locator("#reading-2");
  await expect(field).toBeFocused();
  const expected = await field.getAttribute("data-expected");
  expect(expected).toMatch(/^-?\d+(\.\d)?$/);
  await expect(field).toHaveAttribute("placeholder", `= ${expected}`);
  await page.keyboard.press("=");
  await page.waitForURL(/record|intonation/);
  await expect(page.locator("#undo button")).toHaveAttribute("title", new RegExp(`${Number(expected).toFixed(1).replace("-", "\u2212")}`));
  // Typed on, the sign is a letter like any other: what cannot be read is refused and stays.
  await page.goto(`${job}/intonation?string=3&focus=reading-3`);
  await page.keyboard.type("1=");
  await page.keyboard.press("Enter");
  await expect(page.locator("#reading-3")).toHaveValue("1=");
  await expect(page.locator("#reading-3")).toHaveAttribute("aria-invalid", "true");
  // Nothing was read yet: the key says nothing.
  const wren = await demoJob(page, demo.address, "wren");
  await page.goto(`${wren}/action?string=1&focus=action-1`);
  await expect(page.locator("#action-1")).not.toHaveAttribute("data-expected", /./);
  await page.keyboard.press("=");
  await expect(page.locator("#action-1")).toHaveValue("=");
});
