// From the counter to the handover: what the player says, the odds, a buzz led back to a fret and cured, and the sheets.
import { demoJob, expect, hands, openJob, test } from "./bench.mjs";

async function counter(page, act, bench) {
  const job = await openJob(page, bench.address, "Redwing");
  await page.goto(`${job}/intake`);
  const chances = page.locator("section[aria-labelledby=chances]");
  await expect(chances.locator("tr").first()).toContainText("a setup is enough");
  await act.tick("[name=says_buzz_one]");
  await act.write("#f-words", "one note growls");
  await act.press("#save-complaint");
  await expect(chances.locator("tr").first()).toContainText("fretwork first");
  await expect(chances).toContainText("Tells most now: a rocker");
  // A buzz at one note of one string is led to the fret ahead; it does not rock, and the note plays clean in the end.
  await page.goto(`${job}/proof`);
  await act.write("#f-string", "3");
  await act.write("#f-fret", "7");
  await act.press("button:has-text('There')");
  await expect(page.locator("main")).toContainText("At string 3, fret 7");
  await act.press("button[name=heard][value=buzz]");
  const open = page.locator(".notice-warning").first();
  await expect(open).toContainText("a rocker with its middle on fret 8, under string 3");
  await act.press("button[name=seen_rock][value=clear]");
  await expect(open).toContainText("Fret 8 rocks under string 3");
  await page.goto(`${job}/intake`);
  await expect(chances).toContainText("a fret rocks");
  await page.goto(`${job}/proof`);
  await act.press(".notice-warning button[value=clean]");
  await act.press("#played-through");
  await expect(page.locator("#proof-title")).toHaveText("Plays clean");
  await act.press("[aria-label='jack holds the plug, after'] button[value=fine]");
  await expect(page.locator("[aria-label='jack holds the plug, after'] button[value=fine]")).toHaveAttribute("aria-pressed", "true");
  await act.press("text=Handover sheet");
  await page.waitForURL(/handover/);
  await expect(page.locator("h1")).toHaveText("Handover");
  await expect(page.locator("main")).toContainText("one note growls");
  await expect(page.locator("main")).toContainText("Look at it again about");
  expect(await page.evaluate(() => document.documentElement.scrollWidth <= innerWidth)).toBe(true);
}

test("from the counter to the handover by keyboard", async ({ page, bench }) => {
  await counter(page, hands.keyboard(page), bench);
});

test.describe("on a tablet", () => {
  test.use({ hasTouch: true, viewport: { width: 820, height: 1180 } });
  test("from the counter to the handover by touch", async ({ page, bench }) => {
    await counter(page, hands.touch(page), bench);
  });
  test("a note is tapped on the board", async ({ page, demo }) => {
    const job = await demoJob(page, demo.address, "avocet");
    await page.goto(`${job}/proof`);
    await page.locator("a.note[aria-label='string 3, fret 5']").tap();
    await expect(page.locator("main")).toContainText("At string 3, fret 5");
    await page.locator("button[name=heard][value=rattle]").tap();
    await expect(page.locator("#proof-title")).toHaveText("4 notes to be cured");
  });
});

test("the handover prints on paper with what belongs on it", async ({ page, demo }) => {
  const job = await demoJob(page, demo.address, "curlew");
  await page.goto(`${job}/handover`);
  await page.emulateMedia({ media: "print" });
  await expect(page.locator("text=Back to the job")).not.toBeVisible();
  await expect(page.locator(".case-label")).toContainText("No. 40 Curlew");
  const pdf = await page.pdf({ format: "A4" });
  expect(pdf.subarray(0, 5).toString()).toBe("%PDF-");
  const pages = pdf.toString("latin1").match(/\/Type \/Page\b/g).length;
  expect(pages).toBeLessThanOrEqual(2);
});
