// Three instruments from their record to Ready: by keyboard, and by touch on a tablet and a phone, typing as hands type.
import { expect, hands as recording, test } from "./bench.mjs";
import { finger, keyboard, work } from "./whole.mjs";

const INSTRUMENTS = {
  "a five-string bass": {
    record: async (act) => {
      await act.choose("#f-kind", "bass");
      await act.write("#f-strings", "5");
      await act.write("#f-scales", "34");
    },
    settled: { typical_kind: "bass", typical_strings: "5" },
    // Decimal inches, millimetres, 64ths; a bass is read higher.
    came: {
      relief: ".022", nut: ["22", "22", "24", "24", "26"], action: ["6", "6.5", "2.6 mm", "7", "7.5"],
      reading: ["4", "-3", "5", "3", "-6"], pickup: ["7", "8", "6", "7"],
    },
    turned: [/relief: Tighten .* turn: clockwise/, /action: Down/, /intonation: (Back|Forward)/],
  },
  "a fan of seven": {
    record: async (act) => {
      await act.write("#f-strings", "7");
      await act.write("#f-scales", "25.5-27");
    },
    settled: { typical_strings: "7" },
    came: {
      relief: "12", nut: "20", action: ["5", "5", "5.5", "5/64", "6", "6", "6.5"], reading: ["3", "-3", "5", "2", "-4", "4", "6"],
      pickup: ["6", "7", "5", "7", "4", "6"],
    },
    turned: [/relief: Tighten/, /action: Down/, /intonation: (Back|Forward)/],
  },
  "a left-handed double-locking vibrato": {
    record: async (act) => {
      await act.choose("#f-family", "double-locking vibrato");
      await act.tick("#f-left");
    },
    settled: { typical_family: "double_locking" },
    finely: true,
    came: {
      balance: "5", relief: "12", nut: "20", action: ["5", "5", "5.5", "5.5", "6", "6"], reading: ["5", "-3", "6", "4", "-4", "8"],
      pickup: ["6", "7", "5", "7", "4", "6"],
    },
    turned: [/balance: /, /action: (Up|Down) .*the post/, /intonation: .*slide the saddle/],
  },
};

test.describe.configure({ timeout: 300_000 });

async function whole(page, address, act, hands, { record, settled, finely, came, turned }) {
  await page.goto(address);
  await act.press("a[href='/instruments/new']");
  await page.waitForURL(/\/new/);
  await record(act);
  await act.write("#f-stock_number", "31");
  for (const [name, value] of Object.entries(settled)) await expect(page.locator(`[name=${name}]`)).toHaveValue(value);
  await act.press("main button[name=then][value=open]:not(.sr-only)");
  await page.waitForURL(/\/jobs\/\d+\/\w+/);
  const orders = await work(page, hands, came, finely);
  for (const order of turned) expect(orders.some((said) => order.test(said)), `${order}: ${orders.join("\n")}`).toBe(true);
  await expect(page.locator("#end-title")).toHaveText("Ready");
  expect(await page.evaluate(() => document.documentElement.scrollWidth <= innerWidth)).toBe(true);
}

for (const [name, instrument] of Object.entries(INSTRUMENTS)) {
  test(`${name} by keyboard, from its record to Ready`, async ({ page, bench }) => {
    await whole(page, bench.address, recording.keyboard(page), keyboard(page), instrument);
  });
  for (const [screen, width, height] of [["a tablet", 820, 1180], ["a phone", 390, 844]]) {
    test.describe(screen, () => {
      test.use({ hasTouch: true, viewport: { width, height } });
      test(`${name} by touch on ${screen}, from its record to Ready`, async ({ page, bench }) => {
        await whole(page, bench.address, recording.touch(page), finger(page), instrument);
      });
    });
  }
}
