// The same work with a finger on a tablet.
import { expect, test } from "./bench.mjs";

test.use({ hasTouch: true, isMobile: false });

test("from an empty bench to a finished string, by touch", async ({ page, bench }) => {
  await page.goto(bench.address);
  await page.locator("text=Save the first instrument").tap();
  await page.locator("#f-name").tap();
  await page.keyboard.type("Bittern");
  await page.selectOption("#f-kind", "bass");
  await page.locator("#f-strings").fill("4");
  await expect(page.locator("#f-scales")).toHaveValue("34 in");
  await page.locator("#save").tap();
  await page.locator("text=Open a job").tap();
  await page.locator("#f-purpose").fill("new strings");
  await page.locator("button:has-text('Open the job')").tap();
  await expect(page.locator("h2").first()).toContainText("total tension");

  // Try a tuning without keeping it, then leave it.
  await page.selectOption("#f-preset", "a whole step down");
  await page.locator("button[value=tuning]").tap();
  await expect(page.locator("h2").first()).toContainText("Preview");
  await page.locator("text=Cancel").tap();
  await expect(page.locator("h2").first()).toContainText("total tension");
  await page.locator("summary:has-text('Weigh a cut-off')").tap();
  await page.selectOption("#w-string", "4");
  await page.locator("#f-cut_off").fill("100 mm");
  await page.locator("#f-mass").fill("3.5 g");
  await page.locator("form:has(#f-mass) button").tap();
  await expect(page.locator("tbody")).toContainText("weighed");

  // Scale and places before any reading.
  await page.locator("a[data-digit='7']").tap();
  await page.locator("text=Before reading").tap();
  await page.locator("#f-nut_to_twelfth").fill("17 in");
  await page.locator("button:has-text('Check the scale')").tap();
  await expect(page.locator("main")).toContainText("they agree");
  await page.locator("#place-4").fill("436");
  await page.locator("#place-4").press("Enter");
  await expect(page.locator("#place-1")).toBeFocused();
  await page.locator("a:has-text('Readings')").tap();

  // A strobe, a reading, a move, and readings until nothing can be told.
  await page.locator("button:has-text('strobe')").tap();
  await page.locator("#reading-4").tap();
  await page.keyboard.type("+8.0 8.3 7.9");
  await page.keyboard.press("Enter");
  await expect(page.locator("#reading-1")).toBeFocused();
  await expect(page.locator("h2").first()).toHaveText(/Back/);
  await page.locator("#done button").tap();
  await page.locator("#reading-4").fill("0.4 0.3 0.5");
  await page.locator("#reading-4").press("Enter");
  await expect(page.locator("#reading-1")).toBeFocused();
  await page.locator("a[aria-label^='String 4']").tap();
  for (let round = 0; round < 3 && (await page.locator("h2").first().textContent()).includes("once more"); round += 1) {
    await page.locator("#reading-4").fill("0.4");
    await page.locator("#reading-4").press("Enter");
    await expect(page.locator("#reading-1")).toBeFocused();
    await page.locator("a[aria-label^='String 4']").tap();
    await expect(page.locator("#undo [name=string]")).toHaveValue("4");
  }
  await expect(page.locator("h2").first()).toHaveText("Leave this saddle");
  await expect(page.locator("main")).toContainText("in spec (\u00b1");
  await page.locator("#undo button").tap();
  await expect(page.locator("h2").first()).not.toHaveText("Leave this saddle");
  await page.locator("#redo button").tap();
  await expect(page.locator("#redo button")).toBeDisabled();
  await bench.kill();
  await bench.again();
  await page.reload();
  await page.locator("a[aria-label^='String 4']").tap();
  await expect(page.locator("h2").first()).toHaveText("Leave this saddle");
  for (const box of await page.locator("nav a, main button:visible:not([aria-hidden]), main a.btn:visible").all()) {
    const size = await box.boundingBox();
    if (size) expect(Math.round(size.height)).toBeGreaterThanOrEqual(44);
  }
});
