// Two windows, shared saddles, several frets, stuck screws, papers in and out: by keyboard, and by touch.
import { readFile, writeFile } from "node:fs/promises";
import { demoJob, expect, hands, openJob, test } from "./bench.mjs";

test.use({ hasTouch: true });

const headline = (page) => page.locator("main h2").first();

for (const [way, hand] of Object.entries(hands)) {
  test.describe(`by ${way}`, () => {
    const read = async (page, string, cents) => {
      await hand(page).write(`#reading-${string}`, cents);
      await page.keyboard.press("Enter");
      await expect(page.locator(`#reading-${string}`)).toHaveValue("");
    };

    test("the second of two windows is shown the conflict and loses nothing", async ({ page, bench, context }) => {
      const job = await openJob(page, bench.address);
      const other = await context.newPage();
      await page.goto(`${job}/intonation`);
      await other.goto(`${job}/intonation`);
      await read(page, 1, "+2.5");
      await other.bringToFront();
      await hand(other).write("#reading-2", "-5.5");
      await other.keyboard.press("Enter");
      await expect(other.locator("[role=alertdialog]")).toContainText("String 1, fret 12: +2.5 cents");
      await expect(other.locator("[role=alertdialog]")).toContainText("String 2, fret 12: −5.5 cents");
      await expect(other.locator("#keep-mine")).toBeFocused();
      await hand(other).press("#keep-mine");
      await expect(other.locator("[role=alertdialog]")).toHaveCount(0);
      await other.goto(`${job}/record`);
      await expect(other.locator("tbody")).toContainText("String 1, fret 12: +2.5 cents");
      await expect(other.locator("tbody")).toContainText("String 2, fret 12: −5.5 cents");
      await other.close();
    });

    test("two strings share a saddle, evenly or in favour of one", async ({ page, bench }) => {
      const job = await openJob(page, bench.address, "Dunlin", "three_barrel");
      await page.goto(`${job}/intonation`);
      await hand(page).press("a[aria-label^='String 3']");
      await expect(page.locator("#undo [name=string]")).toHaveValue("3");
      await read(page, 3, "+6 5.9 6.1");
      // The string beside it comes into hand.
      await expect(page.locator("#reading-4")).toBeFocused();
      await read(page, 4, "-2 -2.1 -1.9");
      await expect(page.locator("main")).toContainText("cents on string 3");
      const row = page.locator("tbody tr", { has: page.locator("a[aria-label^='String 4']") });
      const even = await row.textContent();
      await hand(page).press("button:has-text('4 D3 exactly')");
      await expect(page.locator("button[aria-pressed=true]:has-text('4 D3 exactly')")).toBeVisible();
      expect(await row.textContent()).not.toEqual(even);
      await expect(headline(page)).toContainText("Forward");
    });

    test("several frets name what is to blame", async ({ page, bench }) => {
      const job = await openJob(page, bench.address);
      await page.goto(`${job}/intonation`);
      await hand(page).press("a[aria-label^='String 3']");
      await expect(page.locator("#undo [name=string]")).toHaveValue("3");
      for (const [fret, cents] of [[3, "+9"], [5, "+7.5"], [7, "+5.5"], [12, "0"], [15, "-3.5"]]) {
        await hand(page).press(`a[aria-label='Fret ${fret}']`);
        await expect(page.locator("#reading-3")).toHaveAttribute("aria-label", new RegExp(`fret ${fret},`));
        await read(page, 3, cents);
      }
      await expect(page.locator("main")).toContainText(/the nut|the finger/);
      await expect(page.locator("main")).toContainText(/With the saddle right there stay, by fret, in cents: 3: \+\d/);
    });

    test("out of travel, and a moved bridge", async ({ page, demo }) => {
      const act = hand(page);
      await page.goto(`${await demoJob(page, demo.address, "heron")}/intonation`);
      await act.press("a[aria-label^='String 6']");
      await expect(headline(page)).toContainText("Out of travel");
      // The way out names its amount, and that amount is enough.
      const way = page.locator(".notice-stop").first();
      await expect(way).toContainText("move the bridge");
      const [, amount] = (await way.textContent()).match(/move the bridge (\d+\.\d mm)/);
      await act.press("a:has-text('Before reading')");
      await act.write("#f-bridge_move", amount);
      await act.press("form:has(#f-bridge_move) button");
      await expect(page.locator("#f-bridge_move")).toHaveValue("");
      await act.press("a:has-text('Readings')");
      await expect(page.locator("main")).not.toContainText(/String 6: the saddle is .* out of travel/);
      await expect(headline(page)).not.toContainText("Out of travel");
    });

    test("a stuck screw, another amount than planned, and both undone", async ({ page, bench }) => {
      const act = hand(page);
      const job = await openJob(page, bench.address);
      await page.goto(`${job}/intonation`);
      await read(page, 3, "+6.5 6.4");
      await act.press("a[aria-label^='String 3']");
      await act.press("button:has-text('Screw is stuck')");
      await expect(headline(page)).toContainText("do not force");
      await expect(page.locator("main")).toContainText("specialist");
      await act.press("button:has-text('It turns after all')");
      await expect(headline(page)).toContainText("turns clockwise");
      // Another amount than planned is taken as it was.
      await act.press("summary:has-text('another amount')");
      await act.write("#f-turns", "2 1/2");
      await act.press("form:has(#f-turns) button");
      await expect(headline(page)).toHaveText("Retune and measure again");
      // Taking it back stays with the string in hand.
      await act.press("#undo button");
      await expect(headline(page)).toContainText("turns clockwise");
      await expect(page.locator("tr.on")).toContainText("3");
      await act.press("#redo button");
      await expect(headline(page)).toHaveText("Retune and measure again");
      await expect(page.locator("tr.on")).toContainText("3");
    });

    test("old strings make it provisional, and the player's data stay with the job", async ({ page, bench }) => {
      const act = hand(page);
      const job = await openJob(page, bench.address);
      await page.goto(`${job}/intake`);
      await act.press("button:has-text('They are old')");
      await expect(page.locator("main")).toContainText("Old: what is set on them");
      await act.write("#f-twelfth_treble", "3/64");
      await act.tick("[name=heights_measured]");
      await act.press("form:has(#f-twelfth_treble) button");
      await expect(page.locator("#undo button")).toHaveAttribute("title", /Action as it came, measured/);
      await act.write("#f-text", "jack is loose");
      await act.press("form:has(#f-text) button");
      await expect(page.locator("main")).toContainText("jack is loose");
      await expect(page.locator("#f-twelfth_treble")).toHaveValue("3/64");
      await act.press("[data-digit='7']");
      await expect(page.locator("main")).toContainText("provisional");
      await act.press("[data-digit='1']");
      // Work is left: it is ready only by a second press.
      await act.press("button[value=ready]");
      await expect(page.locator("[role=alert]")).toContainText("are left: press ready again");
      await act.press("button[value=ready]");
      await expect(page.locator("main")).toContainText("In the shop: ready");
      await act.press("a[href='/']");
      await expect(page.locator("section", { hasText: "ready" })).toContainText("Heron");
    });

    test("a set for a wanted tension is proposed and put on", async ({ page, bench }) => {
      const act = hand(page);
      const job = await openJob(page, bench.address);
      await page.goto(`${job}/strings`);
      await act.press("summary:has-text('target tension')");
      await act.choose("#f-wish", "gauges for a total pull");
      await act.write("#f-pull", "520 N");
      await act.press("form:has(#f-pull) button");
      await expect(page.locator("main")).toContainText("N against now");
      await act.press("section[aria-label='Pull and stress'] button:has-text('Fit this set')");
      await expect(headline(page)).toContainText(/total tension .*\(5[12]\d N\)/);
      await expect(page.locator("main")).toContainText("more than before");
    });

    test("the lanes say what they understood while they are typed in", async ({ page, bench }) => {
      const act = hand(page);
      const job = await openJob(page, bench.address);
      await page.goto(`${job}/strings`);
      await act.write("#gauge6", ".052w");
      await expect(page.locator(".lanes-echo")).toContainText("52 thou: round-wound, nickel-plated");
      await act.write("#note6", "D2");
      await expect(page.locator(".lanes-echo")).toContainText("73.42 Hz");
      await act.write("#note6", "H2");
      await expect(page.locator(".lanes-echo")).toContainText("H2");
    });

    test("a job goes out as a document and comes in as the same job", async ({ page, demo, bench }, info) => {
      const act = hand(page);
      const job = (await demoJob(page, demo.address, "heron")).replace(/\/intonation.*/, "");
      await page.goto(`${job}/record`);
      const [download] = await Promise.all([page.waitForEvent("download"), act.press("a:has-text('Job as a document')")]);
      const path = info.outputPath("heron.json");
      await download.saveAs(path);
      const takeIn = async (file) => {
        await page.goto(`${bench.address}/data`);
        const [chooser] = await Promise.all([page.waitForEvent("filechooser"), act.press("#document")]);
        await chooser.setFiles(file);
        await act.press("button:has-text('Import')");
      };
      await takeIn(path);
      await expect(page.locator("h1")).toHaveText("No. 27 Heron");
      const here = page.url().replace("/record", "");
      const again = await (await page.request.get(`${here}/export.json`)).text();
      expect(again).toEqual(await readFile(path, "utf8"));
      await writeFile(info.outputPath("bad.json"), "{}");
      await takeIn(info.outputPath("bad.json"));
      await expect(page.locator("[role=alert]")).toContainText("Nothing was imported");
    });

    test("what stands typed on a lane survives something else being kept", async ({ page, bench }) => {
      const act = hand(page);
      const job = await openJob(page, bench.address);
      await page.goto(`${job}/intonation?string=2`);
      await act.write("#reading-5", "-4.4");
      await read(page, 2, "+5 5.1 4.9");
      await expect(page.locator("#reading-5")).toHaveValue("-4.4");
      await act.press("#done button");
      await expect(headline(page)).toHaveText("Retune and measure again");
      await expect(page.locator("#reading-5")).toHaveValue("-4.4");
      await act.press("#reading-5");
      await page.keyboard.press("Enter");
      await expect(page.locator("#reading-6")).toBeFocused();
      await expect(page.locator("#reading-5")).toHaveValue("");
    });

    test("a tuner is chosen once and goes from job to job", async ({ page, bench }) => {
      const job = await openJob(page, bench.address);
      await page.goto(`${job}/intonation`);
      await expect(page.locator("main")).toContainText("only assumed");
      await hand(page).press("button:has-text('strobe')");
      await expect(page.locator("main")).not.toContainText("only assumed");
      const next = await openJob(page, bench.address, "Wren");
      await page.goto(`${next}/intonation`);
      await expect(page.locator("button[aria-pressed=true]:has-text('strobe')")).toBeVisible();
    });
  });
}

test("what is done while a change is on its way waits for its turn", async ({ page, bench }) => {
  const job = await openJob(page, bench.address);
  await page.goto(`${job}/intonation?string=1`);
  // A slow bench: every change takes a while to be kept.
  await page.route("**/tell", async (route) => {
    await new Promise((resolve) => setTimeout(resolve, 400));
    await route.continue();
  });
  for (const [string, cents] of [[1, "+2.5"], [2, "-5.5"], [3, "+6.2"]]) {
    await page.fill(`#reading-${string}`, cents);
    await page.press(`#reading-${string}`, "Enter");
  }
  await page.click("button:has-text('strobe')");
  await expect(page.locator("button[aria-pressed=true]:has-text('strobe')")).toBeVisible();
  await expect(page.locator("[role=alertdialog]")).toHaveCount(0);
  await page.goto(`${job}/record`);
  const lines = await page.locator("tbody tr").allTextContents();
  const told = lines.reverse().map((line) => line.match(/String \d, fret 12: \S+|Tuner: \S+/)?.[0]).filter(Boolean);
  expect(told).toEqual(["String 1, fret 12: +2.5", "String 2, fret 12: −5.5", "String 3, fret 12: +6.2", "Tuner: strobe,"]);
});

test("what is typed while the page changes under the hands stays in its field", async ({ page, bench }) => {
  const job = await openJob(page, bench.address);
  await page.goto(`${job}/action?string=1`);
  const after = (pause) => async (route) => {
    await new Promise((resolve) => setTimeout(resolve, pause));
    await route.continue();
  };
  await page.route("**/tell", after(700));
  await page.route("**/nut*", after(2500));
  await page.click("summary:has-text('is at its end')");
  await page.click("button:has-text('It is all the way down')");
  // At the same place: the tool lies open and the field goes on where the hands were.
  await page.click("summary:has-text('wedge or shim')");
  await page.click("#f-thickness");
  await page.keyboard.type("0.5 mm", { delay: 250 });
  await expect(page.locator("#undo button")).toHaveAttribute("title", /all the way down/);
  await expect(page.locator("#f-thickness")).toHaveValue("0.5 mm");
  expect(page.url()).toContain("/action");
  // At another place what is typed on is nobody's command. (What stood there unsaved would ask first.)
  await page.fill("#f-thickness", "");
  await page.click("a[data-digit='5']");
  await page.click("#f-thickness");
  await page.keyboard.type("7777", { delay: 700 });
  await page.waitForURL(/nut/);
  await page.waitForTimeout(300);
  expect(page.url()).toContain("/nut");
});
