// A whole job from the record to Ready, counted: every key that is pressed, every tap. The instrument reads what hands type
// of one as it comes, and then what was expected.
import { expect, test } from "./bench.mjs";

// As it comes: thousandths at relief and nut, 64ths at heights and pickups, cents.
const CAME = {
  relief: "12", nut: "20", action: ["5", "5", "5.5", "5.5", "6", "6"], reading: ["5", "-3", "6", "4", "-4", "7"],
  pickup: ["6", "7", "5", "7", "4", "6"],
};
const came = (field) => {
  const [, kind, number] = field.match(/^(\w+)-(\d+)$/);
  const all = CAME[kind];
  return Array.isArray(all) ? all[Number(number) - 1] : all;
};
const inches = (text) => Number(text.replace("\u2212", "-").match(/[+-]?\d+(\.\d+)?/)[0]) / 25.4;
// What a tool shows of what was expected, as it is typed.
const read = (field, expected) => {
  if (field.startsWith("reading")) return String(Number(expected.replace("\u2212", "-")));
  if (/^(relief|nut)/.test(field)) return String(Math.round(inches(expected) * 1000));
  return String(Math.round(inches(expected) * 128) / 2);
};

async function work(page, hands) {
  const typed = new Set();
  for (let step = 0; step < 400; step += 1) {
    const dialog = page.locator("[role=alertdialog] #keep-read");
    if (await dialog.count()) {
      await hands.press(dialog, "Enter");
      await expect(dialog).toHaveCount(0);
      continue;
    }
    const end = page.locator("#end-title");
    if ((await end.count()) && (await end.innerText()) === "Ready") return;
    const seen = await page.locator("#undo [name=seen]").inputValue();
    const changed = () => expect(page.locator("#undo [name=seen]")).not.toHaveValue(seen);
    const done = page.locator("#done button");
    if (await done.count()) {
        await hands.press(done, "d");
      await changed();
      continue;
    }
    const says = (await page.locator("main h2").first().innerText()).replace(/\s+/g, " ");
    const field = await page.evaluate(() => document.activeElement?.matches("input[data-lane]") ? document.activeElement.id : "");
    const asks = (await page.locator(".acts.while-asked").count()) > 0;
    const next = page.locator("#next");
    // The string that is asked for may be another than the one the hand is at: Next goes there.
    if (asks && (field || !(await next.count()))) {
      const to = field || (await page.locator("input[data-lane]").first().getAttribute("id"));
      const section = await page.locator("main section").first().innerText();
      const shown = await page.locator(`form:has(#${to}) span.font-bold`).innerText();
      const expected = section.match(/Expect ([+\u2212-]?\d+(?:\.\d+)?)/)?.[1] ?? shown;
      const again = typed.has(to);
      const text = again ? read(to, expected || shown) : came(to);
      typed.add(to);
      // What reads as expected is told by one key; the number beside it is the one the tool shows.
      if (again && (await page.locator(`#${to}`).getAttribute("data-expected")) === text) await hands.asExpected(to);
      else await hands.enter(to, text);
      await expect(async () => {
        const now = await page.locator("#undo [name=seen]").inputValue();
        expect(now !== seen || (await dialog.count()) > 0, `${says}: ${to} ${text}`).toBe(true);
      }).toPass();
      continue;
    }
    expect(await next.count(), `no way on from: ${says} at ${page.url()}`).toBeGreaterThan(0);
    const before = page.url();
    await hands.press(next, "n");
    await page.waitForURL((url) => url.href !== before);
  }
  throw new Error("there is no end to it");
}

// From nothing: the record, a name, and a job.
async function begin(page, address, hands) {
  await page.goto(address);
  await hands.press(page.locator("a[href='/instruments/new']").first(), null);
  await hands.press(page.locator("#f-stock_number"), null);
  await hands.text("31");
  await hands.press(page.locator("button[name=then][value=open]").last(), "Enter");
  await page.waitForURL(/\/jobs\/\d+\/\w+/);
}

function keyboard(page) {
  const hands = {
    count: 0,
    async press(element, key) {
      hands.count += 1;
      if (key) await page.keyboard.press(key);
      else {
        await element.focus();
        if (await element.evaluate((at) => at.localName === "a")) await page.keyboard.press("Enter");
      }
    },
    async text(text) {
      hands.count += text.length;
      await page.keyboard.type(text);
    },
    async asExpected() {
      hands.count += 1;
      await page.keyboard.press("=");
    },
    async enter(field, text) {
      hands.count += text.length + 1;
      await page.keyboard.type(text);
      await page.keyboard.press("Enter");
    },
  };
  return hands;
}

function finger(page) {
  const tap = async (element) => {
    hands.count += 1;
    await element.tap();
  };
  const hands = {
    count: 0,
    press: tap,
    // The keyboard of the system is not part of the page; every letter on it is a tap.
    async text(text) {
      hands.count += text.length;
      await page.keyboard.type(text);
    },
    asExpected: () => tap(page.locator("[data-as-expected]")),
    async enter(field, text) {
      const keys = page.locator(".keypad");
      const blade = keys.locator(`[data-blade="${text}"]`);
      const mark = keys.locator(`[data-rule="${text}/64"]`);
      if (await mark.count()) return tap(mark);
      if (await blade.count()) await tap(blade);
      else if (/^(reading|balance)/.test(field)) {
        for (const letter of text) await tap(keys.locator(letter === "-" ? "[data-key=sign]" : `[data-key="${letter}"]`));
      } else {
        await tap(keys.locator("[data-key=abc]"));
        await hands.text(text);
      }
      await tap(keys.locator("[data-save]"));
    },
  };
  return hands;
}

test.describe.configure({ timeout: 180_000 });

// The instrument obeys here: after a move it reads what was expected, which is one key. One that does not costs the digits.
test("a whole job by keyboard is done in two hundred keys", async ({ page, bench }) => {
  const hands = keyboard(page);
  await begin(page, bench.address, hands);
  console.log(`from nothing to the first reading: ${hands.count} keys`);
  expect(hands.count).toBeLessThan(20);
  await work(page, hands);
  console.log(`from the record to Ready: ${hands.count} keys`);
  expect(hands.count).toBeLessThanOrEqual(200);
});

for (const [name, width, height] of [["a tablet", 820, 1180], ["a phone", 390, 844]]) {
  test.describe(name, () => {
    test.use({ hasTouch: true, viewport: { width, height } });
    test(`a whole job on ${name} is done in two hundred and fifty taps`, async ({ page, bench }) => {
      const hands = finger(page);
      await begin(page, bench.address, hands);
      console.log(`${name}, from nothing to the first reading: ${hands.count} taps`);
      expect(hands.count).toBeLessThanOrEqual(10);
      await work(page, hands);
      console.log(`${name}, from the record to Ready: ${hands.count} taps`);
      expect(hands.count).toBeLessThanOrEqual(250);
      // Nothing scrolls sideways, at the end as at the beginning.
      expect(await page.evaluate(() => document.documentElement.scrollWidth <= innerWidth)).toBe(true);
    });
  });
}
