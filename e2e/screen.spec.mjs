// One screenful: what is to be done next, its buttons and the field in hand are seen without scrolling on the bench's screen.
import { demoJob, expect, openJob, test } from "./bench.mjs";

const STATIONS = ["intake", "strings", "balance", "relief", "nut", "action", "intonation", "pickups", "clearance", "frets", "plan", "proof", "whatif"];

test("at 1280 by 800 the next move, its buttons and the field in hand are never below the fold", async ({ page, demo }) => {
  test.setTimeout(300_000);
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
      const cut = await page.evaluate(() => [...document.querySelectorAll("table")].map((table) => table.getBoundingClientRect().right).filter((right) => right > innerWidth));
      expect(cut, `${name}, ${station}`).toEqual([]);
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

test("what is typed and not saved asks before it is left", async ({ page, demo }) => {
  const job = await demoJob(page, demo.address, "heron");
  const asked = page.locator("#unsaved");
  const undo = page.locator("#undo button");
  await page.goto(`${job}/action?string=3&focus=action-3`);
  const before = await undo.getAttribute("title");
  const told = page.locator("#action-3");
  await page.keyboard.type("4.5");
  // Another station by its key or its tab: asked, and stayed.
  await page.locator("a[data-digit='4']").click();
  await expect(asked).toContainText("String 3, action at fret 12: 4.5");
  await page.keyboard.press("Escape");
  await expect(told).toHaveValue("4.5");
  await page.locator("a[data-digit='4']").click();
  await page.click("[data-unsaved=stay]");
  await expect(told).toBeFocused();
  // Tools of the same station are no leaving.
  await page.click("text=64ths >> visible=true");
  await expect(told).toHaveValue("4.5");
  await expect(asked).not.toBeVisible();
  // Saved, and on to where the hand was going: here the list of jobs.
  await page.keyboard.press("Escape");
  await page.locator("header a[href='/']").click();
  await expect(page.locator("[data-unsaved=save]")).toBeFocused();
  await page.keyboard.press("Enter");
  await page.waitForURL(`${demo.address}/`);
  await page.goto(`${job}/action`);
  const saved = await undo.getAttribute("title");
  expect(saved).not.toEqual(before);
  expect(saved).toContain("action");
  // What cannot be saved comes first.
  await page.goto(`${job}/action?string=2&focus=action-2`);
  await page.keyboard.type("abc");
  await page.locator("a[data-digit='5']").click();
  await page.click("[data-unsaved=save]");
  await expect(page.locator("#action-2")).toHaveValue("abc");
  await expect(page.locator("#action-2")).toHaveAttribute("aria-invalid", "true");
  // Discarded, nothing was told.
  await page.locator("a[data-digit='5']").click();
  await page.click("[data-unsaved=discard]");
  await page.waitForURL(/\/nut/);
  expect(await undo.getAttribute("title")).toEqual(saved);
  // Closing the page asks in the browser's own words.
  await page.goto(`${job}/action?string=2&focus=action-2`);
  await page.keyboard.type("5");
  const closing = page.waitForEvent("dialog");
  const reload = page.reload().catch(() => {});
  const dialog = await closing;
  expect(dialog.type()).toBe("beforeunload");
  await dialog.accept();
  await reload;
});

test("what must be answered stands in the place of the next move and pushes nothing", async ({ page, demo }) => {
  await page.setViewportSize({ width: 1280, height: 800 });
  const job = await demoJob(page, demo.address, "heron");
  await page.goto(`${job}/action?string=3&focus=action-3`);
  const field = page.locator("#action-3");
  const stood = await field.boundingBox();
  await page.keyboard.type("9");
  await page.keyboard.press("Enter");
  const asked = page.locator("[role=alertdialog]");
  await expect(asked).toContainText("That looks off: you entered 9");
  expect(await field.boundingBox()).toEqual(stood);
  expect((await page.locator("#keep-read").boundingBox()).y).toBeLessThan(760);
  await page.click("text=Discard it");
  await expect(asked).toHaveCount(0);
  // The string in hand is the same as before it was asked.
  await expect(page.locator("tr.on")).toContainText("G3");
  await expect(field).toHaveValue("");
  // An error too.
  await field.fill("abc");
  await field.press("Enter");
  await expect(page.locator("[role=alert]")).toContainText("abc");
  expect(await field.boundingBox()).toEqual(stood);
});

for (const [name, width, height] of [["a bench screen", 1280, 800], ["a tablet", 820, 1180], ["a phone", 390, 844]]) {
  test.describe(`without script, ${name}`, () => {
    test.use({ javaScriptEnabled: false, viewport: { width, height } });
    test("a record, readings, moves and undo work", async ({ page, bench }) => {
      await page.goto(`${bench.address}/instruments/new`);
      await page.selectOption("#f-kind", "bass");
      await page.fill("#f-strings", "4");
      await page.click("button[name=apply]");
      await expect(page.locator("[name=typical_kind]")).toHaveValue("bass");
      await page.fill("#f-stock_number", "7");
      await page.click("main button[name=then][value=open]:not(.sr-only)");
      await page.waitForURL(/\/jobs\/1\//);
      const job = `${bench.address}/jobs/1`;
      await page.goto(`${job}/relief`);
      for (const side of ["1", "2"]) {
        await expect(page.locator(`#relief-${side}`)).toBeVisible();
        await page.fill(`#relief-${side}`, "22");
        await page.press(`#relief-${side}`, "Enter");
        await page.waitForURL(/relief/);
      }
      await expect(page.locator("main h2").first()).toContainText("Tighten");
      await page.click("#done button");
      await expect(page.locator("main h2").first()).not.toContainText("Tighten");
      await page.click("#undo button");
      await expect(page.locator("main h2").first()).toContainText("Tighten");
      // Nonsense is answered at its field, and stays.
      await page.fill("#relief-1", "abc");
      await page.press("#relief-1", "Enter");
      await expect(page.locator("[role=alert]")).toContainText("abc");
      await expect(page.locator("#relief-1")).toHaveValue("abc");
    });
  });
}

test("nothing scrolls sideways down to 360", async ({ page, demo }) => {
  test.setTimeout(120_000);
  const places = ["/", "/stock", "/data", "/shop", "/instruments/new", "/instruments/1", "/instruments/8/visits"];
  for (const name of ["osprey", "curlew", "gannet"]) {
    const job = (await demoJob(page, demo.address, name)).replace(demo.address, "");
    places.push(...[...STATIONS, "record", "handover", "estimate"].map((station) => `${job}/${station}`));
  }
  for (const width of [360, 820]) {
    await page.setViewportSize({ width, height: 844 });
    for (const place of places) {
      await page.goto(demo.address + place);
      expect(await page.evaluate(() => document.documentElement.scrollWidth - innerWidth), `${place} at ${width}`).toBeLessThanOrEqual(0);
    }
  }
});

test("no key of the page takes the first letter of a reading away", async ({ page, demo }) => {
  const job = await demoJob(page, demo.address, "stonechat");
  for (const [place, word] of [["balance?focus=balance-1", "flat"], ["relief?focus=relief-1", "touches"], ["relief?focus=relief-1", "none"], ["relief?focus=relief-1", "rocks"], ["relief?focus=relief-1", "card"], ["relief?focus=relief-1", "pick"]]) {
    await page.goto(`${job}/${place}`);
    await page.keyboard.type(word);
    await expect(page.locator(`#${place.split("=")[1]}`)).toHaveValue(word);
  }
});

test("a press of Done that bounces tells one move", async ({ page, bench }) => {
  const job = await openJob(page, bench.address, "Redwing");
  // Every string to be moved; string 4 by so little that nothing is asked for afterwards, and the next order follows at once.
  for (const [string, cents] of [[1, "5 5 5"], [2, "-4 -4 -4"], [3, "6 6 6"], [4, "4 4 4"], [5, "-5 -5 -5"], [6, "7 7 7"]]) {
    await page.goto(`${job}/intonation?string=${string}&focus=reading-${string}`);
    const seen = await page.locator("#undo [name=seen]").inputValue();
    await page.keyboard.type(cents);
    await page.keyboard.press("Enter");
    await expect(page.locator("#undo [name=seen]")).not.toHaveValue(seen);
  }
  await page.goto(`${job}/intonation?string=4`);
  const entries = () => page.locator("#undo [name=seen]").inputValue().then(Number);
  const before = await entries();
  // The second press comes as soon as the page that answers is there: it must not be taken for the order of the next string.
  const followed = await page.evaluate(() => new Promise((found) => {
    document.addEventListener("gradimen:shown", () => setTimeout(() => {
      const next = document.querySelector("#done button");
      next?.click();
      found(Boolean(next));
    }, 30), { once: true });
    document.querySelector("#done button").click();
  }));
  expect(followed, "another order follows at once").toBe(true);
  await page.waitForTimeout(500);
  expect(await entries()).toBe(before + 1);
  // A breath later it is pressed as ever.
  await page.locator("#done button").click();
  await expect.poll(entries).toBe(before + 2);
});
