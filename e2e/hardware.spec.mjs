// Five bridges and rods, each from its record to the last move, by keyboard, typing as hands type: bare numbers in the
// unit of the tool. The instrument does what it is expected to; what is checked is what the page orders, in what words.
import { expect, key, saveAndOpen, test } from "./bench.mjs";

const headline = (page) => page.locator("main h2").first();

// Records an instrument and opens a job on it; `more` fills what is not usual.
async function record(page, address, { name, kind = "guitar", strings = "6", family, more = async () => {} }) {
  await page.goto(`${address}/instruments/new`);
  await page.selectOption("#f-kind", kind);
  await page.fill("#f-strings", strings);
  await page.selectOption("#f-family", family);
  await expect(page.locator("[name=typical_family]")).toHaveValue(family);
  await expect(page.locator("[name=typical_strings]")).toHaveValue(strings);
  await page.locator("#all > summary").click();
  await page.fill("#f-name", name);
  await more(page);
  return saveAndOpen(page);
}

// To where the page sends on; whether it does.
async function onward(page) {
  const next = page.locator("#next");
  if (!(await next.count())) return false;
  const before = page.url();
  await next.click();
  return page.waitForURL((url) => url.href !== before, { timeout: 5000 }).then(() => true, () => false);
}

// Does what the pages say, station after station, until nothing is left: a first reading is what hands type of the
// instrument as it came, a later one what was expected. Answers with every order as it was written in large letters.
async function follow(page, job, came) {
  const orders = [];
  const typed = new Set();
  let stops = 0;
  let sent = false;
  await page.goto(`${job}/plan`);
  for (let step = 0; step < 500; step += 1) {
    if (page.url().includes("/plan")) {
      const first = page.locator("main a[href*='/jobs/']", { hasText: /^(balance|relief|nut|action|intonation|pickups)$/ }).first();
      if (!(await first.count())) return orders;
      await first.click();
      await page.waitForURL((url) => !url.pathname.endsWith("/plan"));
      continue;
    }
    const asked = page.locator("[role=alertdialog] #keep-read");
    if (await asked.count()) {
      await asked.focus();
      await page.keyboard.press("Enter");
      await expect(asked).toHaveCount(0);
      continue;
    }
    const seen = await page.locator("#undo [name=seen]").inputValue();
    const changed = () => expect(page.locator("#undo [name=seen]")).not.toHaveValue(seen);
    const says = (await headline(page).innerText()).replace(/\s+/g, " ");
    const section = page.locator("main section").first();
    if (!sent && (await page.locator("#done button").count())) {
      orders.push({ says, all: (await section.innerText()).replace(/\s+/g, " "), at: new URL(page.url()).pathname.split("/").pop() });
      await key(page, "d");
      await changed();
      continue;
    }
    // Sent here by another station for this reading, the hand reads it, whatever this one says.
    const wanted = sent;
    sent = false;
    if (wanted || (/measure|read/i.test(says) && !/^(leave|nothing)/i.test(says))) {
      // The page puts the hand where it wants a reading, or on the next station where it wants another first.
      if (/first:/.test(says) && (await onward(page))) {
        sent = true;
        continue;
      }
      let field = await page.evaluate(() => (document.activeElement?.matches("input[data-lane]") ? document.activeElement.id : ""));
      if (!field) {
        await key(page, "r");
        field = await page.evaluate(() => document.activeElement?.id ?? "");
      }
      const number = says.match(/string (\d+)/)?.[1];
      const gap = says.match(/(neck|middle|bridge), (treble|bass) side/);
      const own = wanted ? "" : gap
        ? `pickup-${2 * ["neck", "middle", "bridge"].indexOf(gap[1]) + (gap[2] === "bass" ? 2 : 1)}`
        : number && field.replace(/\d+$/, number);
      if (own && (await page.locator(`#${own}`).count())) {
        await page.locator(`#${own}`).focus();
        field = own;
      }
      const shown = await page.locator(`form:has(#${field}) span.font-bold`).innerText();
      const expects = (await section.innerText()).match(/Expect ([+\u2212-]?\d+(?:\.\d+)?)/)?.[1]?.replace("\u2212", "-");
      let text = came[field] ?? "";
      if (typed.has(field)) text = field.startsWith("reading") ? expects ?? shown : shown.replace(/^[^\d]*/, "") || `${expects} mm`;
      typed.add(field);
      expect(text, `${says}: nothing to type at ${field}`).not.toBe("");
      await page.keyboard.type(text);
      await page.keyboard.press("Enter");
      await expect(async () => {
        const now = await page.locator("#undo [name=seen]").inputValue();
        const dialog = await page.locator("[role=alertdialog]").count();
        expect(now !== seen || dialog > 0, await page.locator("main").innerText()).toBe(true);
      }).toPass();
      continue;
    }
    if (await onward(page)) continue;
    await page.goto(`${job}/plan`);
    if (!(await page.locator("main a[href*='/jobs/']", { hasText: /^(balance|relief|nut|action|intonation|pickups)$/ }).count())) return orders;
    // What is still to be read or turned is found on the plan; a page that cannot be left is a defect.
    stops += 1;
    if (stops > 20) orders.push({ says: `stuck at: ${says}`, all: "", at: "" });
    if (stops > 20) return orders;
  }
  throw new Error(`there is no end to it: ${orders.length} orders, the last ${orders.at(-1)?.says}`);
}

// Six strings of a guitar as it comes, in the tools' own numbers: feelers, 64ths, cents.
const guitar = (more = {}) => ({
  "relief-1": "12", "relief-2": "13",
  "nut-1": "20", "nut-2": "20", "nut-3": "20", "nut-4": "20", "nut-5": "21", "nut-6": "21",
  "action-1": "5", "action-2": "5", "action-3": "5.5", "action-4": "5.5", "action-5": "6", "action-6": "6",
  "reading-1": "5", "reading-2": "-3", "reading-3": "6", "reading-4": "4", "reading-5": "-4", "reading-6": "7",
  "pickup-1": "6", "pickup-2": "7", "pickup-3": "5", "pickup-4": "7", "pickup-5": "4", "pickup-6": "6",
  ...more,
});
const at = (orders, station) => orders.filter((order) => order.at === station);

test.describe.configure({ timeout: 180_000 });

test("barrels: each string by its own screw of two, from the record to the last move", async ({ page, bench }) => {
  const job = await record(page, bench.address, { name: "Dunnock", family: "three_barrel" });
  const orders = await follow(page, job, guitar());
  expect(orders.filter((order) => order.says.startsWith("stuck"))).toEqual([]);
  const heights = at(orders, "action");
  expect(heights.length).toBeGreaterThan(1);
  for (const order of heights) {
    // Too high: down, and a grub screw comes down counter-clockwise.
    if (order.says.startsWith("Down")) expect(order.says).toContain("counter-clockwise");
    expect(order.all).toContain("Tape over the pickups");
  }
  expect(at(orders, "relief")[0].says).toMatch(/Tighten .* turn: clockwise/);
  expect(at(orders, "intonation").length).toBeGreaterThan(0);
});

test("a set neck on two posts: posts go down clockwise, and nothing is laid under its neck", async ({ page, bench }) => {
  const job = await record(page, bench.address, {
    name: "Whinchat",
    family: "two_post",
    more: async (form) => form.uncheck("[name=bolted]"),
  });
  const orders = await follow(page, job, guitar());
  expect(orders.filter((order) => order.says.startsWith("stuck"))).toEqual([]);
  const posts = at(orders, "action");
  expect(posts.length).toBeGreaterThan(0);
  for (const order of posts) {
    expect(order.says).toContain("the post");
    if (order.says.startsWith("Down")) expect(order.says).not.toContain("counter-clockwise");
    expect(order.all).toContain("both fall off their posts");
  }
  for (const order of at(orders, "intonation")) expect(order.all).toContain("Seen from the pickup side");
  await page.goto(`${job}/action`);
  await expect(page.locator("main")).not.toContainText("A wedge or shim went under the neck");
});

test("a rod at the heel: one removal of half a turn, a second sized from it", async ({ page, bench }) => {
  const job = await record(page, bench.address, {
    name: "Nightjar",
    family: "fixed_plate",
    more: async (form) => form.selectOption("#f-rod_at", { label: "at the heel, neck off" }),
  });
  const orders = await follow(page, job, guitar({ "relief-1": "24", "relief-2": "25" }));
  expect(orders.filter((order) => order.says.startsWith("stuck"))).toEqual([]);
  const rod = at(orders, "relief");
  expect(rod[0].says).toMatch(/Tighten 1\/2 turn: clockwise/);
  expect(rod[0].all).toContain("strings off");
  for (const order of rod) expect(order.all).not.toContain("never more than a quarter");
  expect(rod.length).toBeLessThanOrEqual(4);
});

test("a locking nut is shimmed as one, and no slot of it is filed", async ({ page, bench }) => {
  const job = await record(page, bench.address, {
    name: "Fieldfare",
    family: "fixed_plate",
    more: async (form) => form.check("[name=locking_nut]"),
  });
  const high = Object.fromEntries([1, 2, 3, 4, 5, 6].map((string) => [`nut-${string}`, "30"]));
  const orders = await follow(page, job, guitar(high));
  expect(orders.filter((order) => order.says.startsWith("stuck"))).toEqual([]);
  const nut = at(orders, "nut");
  expect(nut.length).toBeGreaterThan(0);
  for (const order of nut) {
    expect(order.says).toMatch(/Lower the nut by \d\.\d+ mm, all strings as one/);
    expect(order.all).toContain("The slots of a locking nut are not filed");
  }
  expect(orders.filter((order) => order.says.startsWith("File"))).toEqual([]);
});

test("double-locking: claw, posts and clamped saddles, each in its own terms", async ({ page, bench }) => {
  const job = await record(page, bench.address, { name: "Merlin", family: "double_locking" });
  const orders = await follow(page, job, guitar({ "balance-1": "5", "reading-6": "8" }));
  expect(orders.filter((order) => order.says.startsWith("stuck"))).toEqual([]);
  const saddles = at(orders, "intonation");
  expect(saddles.length).toBeGreaterThan(0);
  for (const order of saddles) {
    expect(order.says).toContain("slide the saddle");
    expect(order.says).not.toMatch(/clockwise|turn/);
    expect(order.all).toContain("Unlock the nut");
    expect(order.all).toContain("Never touch the screw at the tail");
  }
  for (const order of at(orders, "action")) {
    expect(order.says).toContain("the post");
    expect(order.all).toContain("a knife edge is never turned on its post under load");
  }
  expect(at(orders, "balance").length).toBeGreaterThan(0);
});
