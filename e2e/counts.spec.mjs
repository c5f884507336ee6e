// A whole job from the record to Ready, counted: every key that is pressed, every tap.
import { expect, test } from "./bench.mjs";
import { finger, keyboard, work } from "./whole.mjs";

// As it comes: thousandths at relief and nut, 64ths at heights and pickups, cents.
const CAME = {
  relief: "12", nut: "20", action: ["5", "5", "5.5", "5.5", "6", "6"], reading: ["5", "-3", "6", "4", "-4", "7"],
  pickup: ["6", "7", "5", "7", "4", "6"],
};

// From nothing: the record, a name, and a job.
async function begin(page, address, hands) {
  await page.goto(address);
  await hands.press(page.locator("a[href='/instruments/new']").first(), null);
  await hands.press(page.locator("#f-stock_number"), null);
  await hands.text("31");
  await hands.press(page.locator("button[name=then][value=open]").last(), "Enter");
  await page.waitForURL(/\/jobs\/\d+\/\w+/);
}

test.describe.configure({ timeout: 180_000 });

// The instrument obeys here: after a move it reads what was expected, which is one key. One that does not costs the digits.
test("a whole job by keyboard is done in two hundred keys", async ({ page, bench }) => {
  const hands = keyboard(page);
  await begin(page, bench.address, hands);
  console.log(`from nothing to the first reading: ${hands.count} keys`);
  expect(hands.count).toBeLessThan(20);
  await work(page, hands, CAME);
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
      await work(page, hands, CAME);
      console.log(`${name}, from the record to Ready: ${hands.count} taps`);
      expect(hands.count).toBeLessThanOrEqual(250);
      // Nothing scrolls sideways, at the end as at the beginning.
      expect(await page.evaluate(() => document.documentElement.scrollWidth <= innerWidth)).toBe(true);
    });
  });
}
