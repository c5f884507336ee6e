// Two windows, shared saddles, several frets, stuck screws, papers in and out.
import { readFile, writeFile } from "node:fs/promises";
import { demoJob, expect, openJob, test } from "./bench.mjs";

const headline = (page) => page.locator("main h2").first();

async function read(page, string, cents) {
  await page.fill(`#reading-${string}`, cents);
  await page.press(`#reading-${string}`, "Enter");
  await expect(page.locator(`#reading-${string}`)).toHaveValue("");
}

test("the second of two windows is shown the conflict and loses nothing", async ({ page, bench, context }) => {
  const job = await openJob(page, bench.address);
  const other = await context.newPage();
  await page.goto(`${job}/intonation`);
  await other.goto(`${job}/intonation`);
  await read(page, 1, "+2.5");
  await other.fill("#reading-2", "-5.5");
  await other.press("#reading-2", "Enter");
  await expect(other.locator("[role=alertdialog]")).toContainText("String 1, fret 12: +2.5 cents");
  await expect(other.locator("[role=alertdialog]")).toContainText("String 2, fret 12: −5.5 cents");
  await expect(other.locator("#keep-mine")).toBeFocused();
  await other.keyboard.press("Enter");
  await expect(other.locator("[role=alertdialog]")).toHaveCount(0);
  await other.goto(`${job}/record`);
  await expect(other.locator("tbody")).toContainText("String 1, fret 12: +2.5 cents");
  await expect(other.locator("tbody")).toContainText("String 2, fret 12: −5.5 cents");
  await other.close();
});

test("two strings share a saddle, evenly or in favour of one", async ({ page, bench }) => {
  const job = await openJob(page, bench.address, "Dunlin", "three_barrel");
  await page.goto(`${job}/intonation?string=3`);
  await read(page, 3, "+6");
  await expect(headline(page)).toContainText("Read string 4");
  await read(page, 4, "-2");
  await expect(page.locator("main")).toContainText("cents on string 3");
  const row = page.locator("tbody tr", { has: page.locator("a[aria-label^='String 4']") });
  const even = await row.textContent();
  await page.click("button:has-text('4 D3 exactly')");
  await expect(page.locator("button[aria-pressed=true]:has-text('4 D3 exactly')")).toBeVisible();
  expect(await row.textContent()).not.toEqual(even);
  await expect(headline(page)).toContainText("Forward");
});

test("several frets name what is to blame", async ({ page, bench }) => {
  const job = await openJob(page, bench.address);
  for (const [fret, cents] of [[3, "+9"], [5, "+7.5"], [7, "+5.5"], [12, "0"], [15, "-3.5"]]) {
    await page.goto(`${job}/intonation?string=3&fret=${fret}`);
    await read(page, 3, cents);
  }
  await expect(page.locator("main")).toContainText(/the nut|the finger/);
  await expect(page.locator("main")).toContainText(/With the saddle right there stay, by fret, in cents: 3: \+\d/);
});

test("out of travel, a stuck screw and a moved bridge", async ({ page, demo }) => {
  const job = await demoJob(page, demo.address, "heron");
  await page.goto(`${job.replace(/\/intonation.*/, "")}/intonation?string=6`);
  await expect(headline(page)).toContainText("short of room");
  await expect(page.locator(".notice-stop").first()).toContainText("move the bridge");
  await page.click("text=Before reading");
  await page.fill("#f-bridge_move", "2 mm");
  await page.click("form:has(#f-bridge_move) button");
  await expect(page.locator("#f-bridge_move")).toHaveValue("");
  await page.click("a:has-text('Readings')");
  await expect(page.locator("main")).not.toContainText("short of room");
  await page.goto(`${page.url().replace(/\?.*/, "")}?string=3`);
  await read(page, 3, "+6.5");
  await page.click("a[aria-label^='String 3']");
  await page.click("text=It will not turn");
  await expect(headline(page)).toContainText("do not force");
  await expect(page.locator("main")).toContainText("specialist");
  await page.click("text=It turns after all");
  await expect(headline(page)).toContainText("turns clockwise");
  // Another amount than planned is taken as it was.
  await page.click("summary:has-text('another amount')");
  await page.fill("#f-turns", "2 1/2");
  await page.click("form:has(#f-turns) button");
  await expect(headline(page)).toHaveText("Retune and read again");
});

test("old strings make it provisional, and the player's data stay with the job", async ({ page, bench }) => {
  const job = await openJob(page, bench.address);
  await page.goto(`${job}/intake`);
  await page.click("text=They are old");
  await expect(page.locator("main")).toContainText("Old: what is set on them");
  await page.fill("#f-twelfth_treble", "3/64");
  await page.check("[name=heights_measured]");
  await page.click("form:has(#f-twelfth_treble) button");
  await expect(page.locator("#undo button")).toHaveAttribute("title", /Heights measured/);
  await page.fill("#f-text", "jack is loose");
  await page.click("form:has(#f-text) button");
  await expect(page.locator("main")).toContainText("jack is loose");
  await expect(page.locator("#f-twelfth_treble")).toHaveValue("3/64");
  await page.goto(`${job}/intonation`);
  await expect(page.locator("main")).toContainText("provisional");
  await page.goto(`${job}/intake`);
  await page.click("button[value=ready]");
  await expect(page.locator("main")).toContainText("In the shop: ready");
  await page.goto(bench.address);
  await expect(page.locator("section", { hasText: "ready" })).toContainText("Heron");
});

test("a set for a wanted pull is proposed and put on", async ({ page, bench }) => {
  const job = await openJob(page, bench.address);
  await page.goto(`${job}/strings`);
  await page.click("summary:has-text('wanted pull')");
  await page.selectOption("#f-wish", "set_total");
  await page.fill("#f-pull", "520 N");
  await page.click("form:has(#f-pull) button");
  await expect(page.locator("main")).toContainText("N against now");
  await page.click("section[aria-label='Pull and stress'] button:has-text('Put these on')");
  await expect(headline(page)).toContainText(/Pulls 5[12]\d/);
  await expect(page.locator("main")).toContainText("more than before");
});

test("a job goes out as a document and comes in as the same job", async ({ page, demo, bench }, info) => {
  const job = (await demoJob(page, demo.address, "heron"));
  await page.goto(`${job}/record`);
  const [download] = await Promise.all([page.waitForEvent("download"), page.click("text=Job as a document")]);
  const path = info.outputPath("heron.json");
  await download.saveAs(path);
  await page.goto(`${bench.address}/data`);
  await page.setInputFiles("#document", path);
  await page.click("button:has-text('Take it in')");
  await expect(page.locator("h1")).toHaveText("No. 27 Heron");
  const here = page.url().replace("/record", "");
  const again = await (await page.request.get(`${here}/export.json`)).text();
  expect(again).toEqual(await readFile(path, "utf8"));
  await writeFile(info.outputPath("bad.json"), "{}");
  await page.goto(`${bench.address}/data`);
  await page.setInputFiles("#document", info.outputPath("bad.json"));
  await page.click("button:has-text('Take it in')");
  await expect(page.locator("[role=alert]")).toContainText("Nothing was taken in");
});

test("what stands typed on a lane survives something else being kept", async ({ page, bench }) => {
  const job = await openJob(page, bench.address);
  await page.goto(`${job}/intonation?string=2`);
  await page.fill("#reading-5", "-4.4");
  await read(page, 2, "+5 5.1 4.9");
  await expect(page.locator("#reading-5")).toHaveValue("-4.4");
  await page.click("#done button");
  await expect(headline(page)).toHaveText("Retune and read again");
  await expect(page.locator("#reading-5")).toHaveValue("-4.4");
  await page.press("#reading-5", "Enter");
  await expect(page.locator("#reading-6")).toBeFocused();
  await expect(page.locator("#reading-5")).toHaveValue("");
});

test("a tuner is chosen once and goes from job to job", async ({ page, bench }) => {
  const job = await openJob(page, bench.address);
  await page.goto(`${job}/intonation`);
  await expect(page.locator("main")).toContainText("only assumed");
  await page.click("button:has-text('strobe')");
  await expect(page.locator("main")).not.toContainText("only assumed");
  const next = await openJob(page, bench.address, "Wren");
  await page.goto(`${next}/intonation`);
  await expect(page.locator("button[aria-pressed=true]:has-text('strobe')")).toBeVisible();
});
