// The whole first slice by keyboard alone, through a kill of the server in the middle.
import { expect, hands, key, tabTo, test, write } from "./bench.mjs";

test("from an empty bench to a learned saddle, by keyboard alone", async ({ page, bench }) => {
  await page.goto(bench.address);
  await expect(page.locator("main")).toContainText("No jobs yet");
  await tabTo(page, "a[href='/instruments/new']");
  await page.keyboard.press("Enter");

  // The instrument, in the trade's units; the field shows back what it understood.
  await hands.keyboard(page).choose("#f-family", "two-post");
  await write(page, "#f-scales", "25 1/2");
  await expect(page.locator("#h-scales")).toHaveText(/647\.7 mm = 25\.500 in/);
  await write(page, "#f-stock_number", "27");
  await write(page, "#f-name", "Heron");
  await tabTo(page, "#all > summary");
  await page.keyboard.press("Enter");
  await write(page, "#f-radius_nut", "7.25\"");
  await expect(page.locator("#h-radius_nut")).toHaveText(/184\.1 mm/);
  await expect(page.locator("#f-head")).toHaveValue("pickups");
  await expect(page.locator("#f-name")).toHaveValue("Heron");
  await write(page, "#f-saddle_pitch", "0.5");
  await tabTo(page, "#save");
  await page.keyboard.press("Enter");
  await expect(page.locator("h1")).toHaveText("No. 27 Heron");

  // The job.
  await tabTo(page, "a[href$='/open']");
  await page.keyboard.press("Enter");
  await write(page, "#f-purpose", "before loan");
  await write(page, "#f-style", "dance band");
  await page.keyboard.press("Enter");
  await expect(page.locator("h2").first()).toContainText("total tension");

  // Strings: another gauge on its lane, kept with Enter.
  await write(page, "#gauge3", "18");
  await page.keyboard.press("Enter");
  await expect(page.locator("main")).toContainText("N more than before");
  await expect(page.locator("#gauge3")).toHaveValue(/018|18/);

  // Intonation: Enter goes to the same place on the next string.
  await key(page, "7");
  await expect(page.locator("h2").first()).toContainText("read fretted 12");
  await key(page, "r");
  await page.keyboard.type("+0.2");
  await page.keyboard.press("Enter");
  await expect(page.locator("#reading-2")).toBeFocused();
  await page.keyboard.type("-0,4");
  await page.keyboard.press("Enter");
  await expect(page.locator("#reading-3")).toBeFocused();
  await page.keyboard.type("+6.2 6.4 6.0");
  await page.keyboard.press("Enter");
  await expect(page.locator("h2").first()).toHaveText(/Back 2\.\d mm:.*turns counter-clockwise/);
  await expect(page.locator("main")).toContainText("6.2 cents sharp, mean of 3");
  await expect(page.locator("main")).toContainText("Seen from the pickup side");

  // Why shows the sum; Done waits for the check reading.
  await key(page, "w");
  await expect(page.locator("#why")).toHaveAttribute("open", "");
  await expect(page.locator("#why")).toContainText("ln 2 / 1200");
  await key(page, "d");
  await expect(page.locator("#reading-3")).toBeFocused();
  await expect(page.locator("h2").first()).toHaveText("Retune and measure again");

  // Killed and started again: nothing acknowledged is lost.
  await bench.kill();
  await page.keyboard.type("+2.6");
  await page.keyboard.press("Enter");
  await expect(page.locator("#gone")).toContainText("did not answer");
  await expect(page.locator("#reading-3")).toHaveValue("+2.6");
  await bench.again();
  await page.keyboard.press("Enter");
  await expect(page.locator("#reading-4")).toBeFocused();
  await expect(page.locator("#gone")).toHaveCount(0);
  await key(page, "0");
  await page.waitForURL(/record/);
  const record = page.locator("tbody");
  for (const line of ["String 3, fret 12: +2.6 cents", "String 3: saddle", "String 3, fret 12: +6.4 cents", "String 2, fret 12: −0.4 cents", "Strung"]) {
    await expect(record).toContainText(line);
  }

  // The check reading taught this saddle: fewer millimetres a turn than the thread says.
  await key(page, "7");
  await page.waitForURL(/intonation/);
  await page.goto(page.url().replace(/\?.*/, "") + "?string=3");
  // One reading more decides whether it moves again.
  await expect(page.locator("h2").first()).toHaveText("Read it once more");
  await page.locator("#reading-3").focus();
  await page.keyboard.type("2.6 2.7 2.6");
  await page.keyboard.press("Enter");
  await expect(page.locator("#reading-4")).toBeFocused();
  await page.goto(page.url().replace(/\?.*/, "") + "?string=3");
  await key(page, "w");
  await expect(page.locator("#why")).toContainText(/thread 0\.5 mm × 0\.[789]\d/);

  // Undo and redo, as often as there is something.
  await key(page, "z");
  await expect(page.locator("h2").first()).toHaveText("Read it once more");
  await key(page, "z");
  await expect(page.locator("h2").first()).toHaveText("Retune and measure again");
  await key(page, "Shift+Z");
  await expect(page.locator("h2").first()).toHaveText("Read it once more");
  await key(page, "Shift+Z");
  await expect(page.locator("h2").first()).toHaveText(/Back .* mm:/);
  await page.reload();
  await expect(page.locator("h2").first()).toHaveText(/Back .* mm:/);

  // Found again by name on the bench.
  await key(page, "b");
  await expect(page.locator("#search")).toBeVisible();
  await key(page, "/");
  // The only one that fits is opened.
  await page.keyboard.type("heron");
  await page.keyboard.press("Enter");
  await page.waitForURL(/\/jobs\/\d+/);
  await key(page, "?");
  await expect(page.locator("#keys")).toBeVisible();
});

test("wrong input is answered in words and stays where it was typed", async ({ page, bench }) => {
  await page.goto(`${bench.address}/instruments/new`);
  await write(page, "#f-name", "Wren");
  await write(page, "#f-scales", "6.48 mm");
  await page.keyboard.press("Enter");
  await expect(page.locator("[role=alert]")).toContainText("What you typed is all still here");
  await expect(page.locator("#f-scales")).toBeFocused();
  await expect(page.locator("#f-scales")).toHaveValue("6.48 mm");
  await expect(page.locator("#h-scales")).toContainText("lies between");
  await page.keyboard.type("648 mm");
  await tabTo(page, "#save");
  await page.keyboard.press("Enter");
  await tabTo(page, "a[href$='/open']");
  await page.keyboard.press("Enter");
  await write(page, "#f-purpose", "check");
  await write(page, "input[name=note1]", "C5");
  await page.keyboard.press("Enter");
  await expect(page.locator("[role=alert]")).toContainText("above 90 %");
  await write(page, "input[name=note1]", "E4");
  await page.keyboard.press("Enter");
  await expect(page.locator("h2").first()).toContainText("total tension");
  await key(page, "7");
  await expect(page.locator("#reading-1")).toBeVisible();
  await key(page, "r");
  for (const [typed, says] of [["sharp", "is not understood"], ["440", "another note"], ["1/3", "rules are divided"]]) {
    await page.keyboard.press("Control+A");
    await page.keyboard.type(typed);
    await page.keyboard.press("Enter");
    await expect(page.locator("[role=alert]")).toContainText(says);
    await expect(page.locator("#reading-1")).toHaveValue(typed);
    await expect(page.locator("#reading-1")).toBeFocused();
  }
  expect(page.url()).not.toContain("/tell");
  await page.keyboard.press("Control+A");
  await page.keyboard.type("+3");
  await page.keyboard.press("Enter");
  await expect(page.locator("[role=alert]")).toHaveCount(0);
});
