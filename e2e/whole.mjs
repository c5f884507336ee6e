// A whole job as one does it who follows the page, from its first question to Ready: what both the counts and the journeys of
// whole jobs do. The instrument reads what hands type of one as it comes, and then what was expected.
import { expect } from "@playwright/test";

const inches = (text) => Number(text.replace("\u2212", "-").match(/[+-]?\d+(\.\d+)?/)[0]) / 25.4;
// What a tool shows of what was expected, as it is typed.
const read = (field, expected, finely) => {
  if (finely && /^(action|pickup)/.test(field)) return `${expected.match(/\d+(\.\d+)?/)[0]} mm`;
  if (field.startsWith("reading")) return String(Number(expected.replace("\u2212", "-")));
  if (field.startsWith("balance")) return String(Math.round(Number(expected.match(/\d+(\.\d+)?/)[0]) * 10) / 10);
  if (/^(relief|nut)/.test(field)) return String(Math.round(inches(expected) * 1000));
  return String(Math.round(inches(expected) * 128) / 2);
};

// What comes first at a field: `relief-1`, `action-6`.
export function first(came, field) {
  const [, kind, number] = field.match(/^(\w+)-(\d+)$/);
  const all = came[kind];
  return Array.isArray(all) ? all[Number(number) - 1] : all;
}

// Does what the page says until it says Ready; answers with the headlines of what was turned.
// `finely`: heights are read by a dial, in hundredths of a millimetre, not by a rule.
export async function work(page, hands, came, finely = false) {
  const orders = [];
  const typed = new Set();
  for (let step = 0; step < 400; step += 1) {
    const dialog = page.locator("[role=alertdialog] #keep-read");
    if (await dialog.count()) {
      await hands.press(dialog, "Enter");
      await expect(dialog).toHaveCount(0);
      continue;
    }
    const end = page.locator("#end-title");
    if ((await end.count()) && (await end.innerText()) === "Ready") return orders;
    const seen = await page.locator("#undo [name=seen]").inputValue();
    const changed = () => expect(page.locator("#undo [name=seen]")).not.toHaveValue(seen);
    const done = page.locator("#done button");
    if (await done.count()) {
      orders.push(`${new URL(page.url()).pathname.split("/").pop()}: ${(await page.locator("main h2").first().innerText()).replace(/\s+/g, " ")}`);
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
      const text = again ? read(to, expected || shown, finely) : first(came, to);
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


export function keyboard(page) {
  const hands = {
    count: 0,
    async press(element, key) {
      hands.count += 1;
      if (key) {
        await expect(element).toBeEnabled();
        await page.keyboard.press(key);
      }
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

export function finger(page) {
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
