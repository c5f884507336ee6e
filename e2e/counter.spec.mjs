// From the counter to the handover: what the player says, the odds, a buzz led back to a fret and cured, and the sheets.
import { getDocument } from "pdfjs-dist/legacy/build/pdf.mjs";
import { demoJob, expect, hands, openJob, test } from "./bench.mjs";

// What stands in a PDF, as another program reads it.
async function textOf(pdf) {
  const paper = await getDocument({ data: new Uint8Array(pdf), verbosity: 0 }).promise;
  const said = [];
  for (let number = 1; number <= paper.numPages; number += 1) {
    const { items } = await (await paper.getPage(number)).getTextContent();
    said.push(items.map((item) => item.str + (item.hasEOL ? " " : "")).join(""));
  }
  return said.join(" ").replace(/\s+/g, " ");
}

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
  // Pressed, it sits: it is high, and is brought down; what the rocker said there says nothing any more.
  await page.goto(`${job}/frets?string=3&fret=8`);
  await expect(page.locator("#advice")).toContainText("seat or spot-level it");
  await act.press("button[name=gives][value=no]");
  await expect(page.locator("main")).toContainText("Pressed with a stick: it sits");
  await act.press("summary:has-text('worked on')");
  await act.choose("#f-fretwork", "spot-levelled and crowned");
  await expect(page.locator("#f-worked_fret")).toHaveValue("8");
  await act.press("form:has(#f-fretwork) button");
  await expect(page.locator("#advice")).not.toContainText("1 fret");
  await page.goto(`${job}/frets?string=3&fret=8`);
  await act.press("button[name=seen_rock][value=none]");
  await expect(page.locator("#undo button")).toHaveAttribute("title", /fret 8/);
  await expect(page.locator("#advice")).not.toContainText("1 fret");
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

test("a second visit in another season begins where the first one left it", async ({ page, bench }) => {
  const type = async (selector, text) => { await page.fill(selector, text); await page.keyboard.press("Enter"); };
  const air = async (job, percent) => {
    await page.goto(`${job}/intake`);
    await type("#f-humidity", percent);
    await expect(page.locator("main")).toContainText(`It was ${percent} % in the room`);
  };
  const relief = async (job, thou) => {
    await page.goto(`${job}/relief`);
    for (const lane of [1, 2]) {
      await type(`[data-lane="${lane}"]`, thou);
      await expect(page.locator(".lane-field").nth(lane - 1)).not.toContainText("not read");
      await expect(page.locator("#undo button")).toHaveAttribute("title", new RegExp(`${lane === 1 ? "treble" : "bass"}.*${thou}`));
    }
  };
  const winter = await openJob(page, bench.address, "Redwing");
  await air(winter, "36");
  await relief(winter, "6");
  await page.goto(`${winter}/intake`);
  await page.click("button[value=returned]");
  await page.click("button[value=returned]");
  await expect(page.locator("main")).toContainText("In the shop: returned");
  await page.goto(`${bench.address}/instruments/1/open`);
  await page.fill("#f-purpose", "recheck in the summer");
  await page.click("button:has-text('Open the job')");
  await page.waitForURL(/\/jobs\/\d+\/strings/);
  const summer = page.url().replace(/\/strings.*/, "");
  await page.goto(`${summer}/relief`);
  await expect(page.locator("#last-time")).toContainText(/treble 0\.1\d mm, bass 0\.1\d mm/);
  await air(summer, "61");
  await relief(summer, "11");
  await page.goto(`${summer}/intake`);
  await expect(page.locator("main")).toContainText(/Ten per cent more humidity make \+0\.0[3-6] mm/);
  await page.goto(`${bench.address}/instruments/1/visits`);
  await expect(page.locator("tbody tr")).toHaveCount(2);
  await expect(page.locator("tbody")).toContainText("61 %");
  await page.goto(`${summer}/handover`);
  await expect(page.locator("thead")).toContainText("last time");
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
  const printed = await textOf(pdf);
  for (const said of ["No. 40 Curlew", "Handover", "as it came", "as it is", "in spec", "Look at it again about"]) expect(printed).toContain(said);
  expect(printed).not.toContain("Back to the job");
});
