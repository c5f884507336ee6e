// The practice bench by hand: a tool is laid on, what it shows is typed, what the page says is turned; and by ear.
import { expect, test } from "./bench.mjs";

test.setTimeout(240_000);

async function begin(page, address, name, hints) {
  await page.goto(`${address}/practice`);
  await page.locator(`input[name=hints][value=${hints}]`).check();
  await page.getByRole("button", { name: `Begin: ${name}` }).click();
  await expect(page.locator("#practice")).toBeVisible();
  return page.url().match(/^(.*\/jobs\/\d+)\//)[1];
}

// One thing that the page asks for: its move, or a reading in the field where the cursor is led to. Nothing where nothing is asked for.
async function step(page, job) {
  await page.goto(job);
  if (/\/plan/.test(page.url())) return false;
  const done = page.locator("#done button");
  if (await done.count()) {
    const before = await page.locator("#practice").innerText();
    await done.click();
    await expect(page.locator("#practice")).not.toHaveText(before);
    return true;
  }
  const field = await page.evaluate(() => document.activeElement.id);
  expect(field, page.url()).not.toBe("");
  await page.locator(`#practice a[href*="focus=${field}"]`).click();
  await expect(page.locator("#practice .shown")).toBeVisible();
  await expect(page.locator(`#${field}`)).toBeFocused();
  const shown = page.locator("#practice .shown");
  const typed = (await shown.locator("kbd").count()) ? shown.locator("kbd") : shown.locator("b");
  await page.keyboard.type(await typed.innerText());
  const before = await page.locator("#practice p").first().innerText();
  await page.keyboard.press("Enter");
  const asked = page.locator("#keep-read");
  await expect(asked.or(page.locator("#practice p").first())).toBeVisible();
  await page.waitForTimeout(150);
  if (await asked.count()) await asked.click();
  await expect(page.locator("#practice p").first()).not.toHaveText(before);
  return true;
}

test("an exercise done as the pages say is at par, and stands on the card", async ({ page, bench }) => {
  const job = await begin(page, bench.address, "A bass at the season's turn", "full");
  let steps = 0;
  while (steps < 120 && await step(page, job)) steps += 1;
  expect(steps).toBeGreaterThan(20);
  expect(steps).toBeLessThan(120);
  await page.getByRole("link", { name: "Hand in" }).click();
  await page.getByRole("button", { name: "Hand in" }).click();
  await expect(page.getByRole("heading", { name: "At par", exact: true })).toBeVisible();
  await expect(page.getByRole("heading", { name: "Everything is truly within" })).toBeVisible();
  await page.getByRole("link", { name: "Card of progress" }).click();
  await expect(page.locator("tbody tr", { hasText: "season's turn" })).toContainText("at par");
  await expect(page.locator("main")).toContainText("1 of 12 at par");
  // Nothing of it is in the shop.
  await page.goto(bench.address);
  await expect(page.locator("main")).toContainText("No jobs yet");
});

test("with hints off nothing says what to turn, a turn is told by its amount, and a reload keeps it", async ({ page, bench }) => {
  const job = await begin(page, bench.address, "A whole setup, in order", "off");
  for (const station of ["relief", "nut", "action", "intonation", "plan"]) {
    await page.goto(`${job}/${station}`);
    await expect(page.locator("main")).toContainText("Hints are kept back");
    await expect(page.locator("[data-next], #done, td.moves:visible")).toHaveCount(0);
  }
  await page.goto(`${job}/relief`);
  await page.getByRole("group", { name: "Feelers" }).first().getByRole("link", { name: "treble" }).click();
  const shown = await page.locator("#practice .shown").innerText();
  await page.reload();
  await expect(page.locator("#practice .shown")).toHaveText(shown, { useInnerText: true });
  await page.locator("#turned input[name=turns]").fill("1/4");
  await page.locator("#turned button").click();
  await expect(page.locator("#practice")).toContainText("1 move, ");
  await page.getByRole("button", { name: "Let a minute pass" }).click();
  await expect(page.locator("#practice")).toContainText("4 min");
  await page.getByRole("group", { name: "Feelers" }).first().getByRole("link", { name: "treble" }).click();
  await expect(page.locator("#practice .shown")).not.toHaveText(shown, { useInnerText: true });
});

test("a plucked string is heard by the ear, and its reading is kept", async ({ page, bench }) => {
  const job = await begin(page, bench.address, "First intonation", "full");
  await page.goto(`${job}/intonation?string=5`);
  await page.getByRole("button", { name: "harmonic", exact: true }).click();
  await expect(page.locator("[data-heard]")).toContainText("String 5 A2, harmonic", { timeout: 15_000 });
  await page.getByRole("button", { name: "fretted at 12" }).click();
  await expect(page.locator("main table tbody tr", { hasText: "A2" })).not.toContainText("not read", { timeout: 15_000 });
  await page.goto(`${job}/record`);
  await expect(page.locator("main")).toContainText("by ear");
});

test("a stroke can be heard, and the ear hears what rattles in it", async ({ page, bench }) => {
  const job = await begin(page, bench.address, "It buzzes where it is played most", "full");
  await page.goto(`${job}/proof`);
  const [, string, fret] = (await page.locator("main").innerText()).match(/string (\d), fret (\d+): buzz/);
  await page.goto(`${job}/proof?string=${string}&fret=${fret}`);
  await page.getByRole("link", { name: `play string ${string}, fret ${fret}` }).click();
  await expect(page.locator("#practice .shown")).toContainText("buzz");
  await page.getByRole("button", { name: "Hear it" }).click();
  await expect(page.locator("[data-heard]")).toContainText("buzz", { timeout: 15_000 });
});

test("on a phone and on a tablet the tools are reached and read", async ({ page, bench }) => {
  const job = await begin(page, bench.address, "Two posts", "on_request");
  for (const width of [820, 390]) {
    await page.setViewportSize({ width, height: 800 });
    for (const path of ["/practice", "/practice/card"]) {
      await page.goto(bench.address + path);
      expect(await page.evaluate(() => document.documentElement.scrollWidth - innerWidth), `${path} ${width}`).toBeLessThanOrEqual(0);
    }
    await page.goto(`${job}/action?string=2`);
    await page.getByRole("group", { name: "Rule" }).first().getByRole("link", { name: "2", exact: true }).click();
    await expect(page.locator("#practice .shown")).toBeVisible();
    expect(await page.evaluate(() => document.documentElement.scrollWidth - innerWidth), `action ${width}`).toBeLessThanOrEqual(0);
  }
});
