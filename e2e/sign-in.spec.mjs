// A shop with a bench and a counter: signing in over an encrypted line, pairing a tablet, what each may do, and the way out.
import { AxeBuilder } from "@axe-core/playwright";
import { mkdtemp, rm } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { expect, saveAndOpen, test as base } from "./bench.mjs";
import { run, start } from "./server.mjs";

const PASSWORD = "seven maple boards";
const test = base.extend({
  // A shop that other machines speak to, with a technician and somebody at the counter.
  shop: async ({}, use) => {
    const folder = await mkdtemp(join(tmpdir(), "gradimen-shop-"));
    for (const [name, role] of [["mira", "technician"], ["odd", "counter"]]) await run(["account", "add", name, "--role", role, "--data", folder], `${PASSWORD}\n`);
    const server = await start(["serve", "--data", folder, "--listen", "0.0.0.0:0", "--name", "localhost"]);
    await use(server.address);
    await server.stop();
    await rm(folder, { recursive: true, force: true });
  },
});
test.use({ ignoreHTTPSErrors: true });

// By keyboard alone: the cursor stands in the name.
const enter = async (page, name) => {
  await page.keyboard.type(name);
  await page.keyboard.press("Tab");
  await page.keyboard.type(PASSWORD);
  await page.keyboard.press("Enter");
};

const sound = async (page) => {
  const { violations } = await new AxeBuilder({ page }).analyze();
  expect(violations.map((violation) => violation.id)).toEqual([]);
};

test("a technician signs in, pairs a tablet, and signs out everywhere", async ({ page, browser, shop: address }) => {
  await page.goto(`${address}/stock`);
  await sound(page);
  await enter(page, "mira");
  await page.waitForURL(`${address}/stock`);
  await page.goto(`${address}/account`);
  await page.click("text=Show a code");
  await sound(page);
  const code = await page.locator("[role=status]").innerText();
  const tablet = await browser.newPage({ ignoreHTTPSErrors: true, viewport: { width: 820, height: 1180 }, hasTouch: true });
  await tablet.goto(address);
  await tablet.locator("#f-code").tap();
  await tablet.keyboard.type(code.toLowerCase());
  await tablet.locator("text=Pair this device").tap();
  await expect(tablet.locator("nav")).toContainText("mira");
  expect(await tablet.evaluate(() => document.documentElement.scrollWidth <= innerWidth)).toBe(true);
  await page.click("text=Sign out everywhere");
  await page.waitForURL(`${address}/sign-in`);
  await tablet.reload();
  await expect(tablet.locator("h1")).toHaveText("Sign in");
  await tablet.close();
});

test("a reading that is typed after the session ended is still there, and carries who saved it", async ({ page, context, shop: address }) => {
  await page.goto(`${address}/instruments/new`);
  await enter(page, "mira");
  await page.waitForURL(`${address}/instruments/new`);
  await page.fill("#f-name", "Heron");
  const job = await saveAndOpen(page);
  await page.goto(`${job}/relief?focus=asked`);
  await expect(page.locator("#relief-1")).toBeFocused();
  await page.keyboard.type("6");
  await context.clearCookies();
  await page.keyboard.press("Enter");
  await expect(page.locator("#signed-out")).toContainText("Not saved");
  await expect(page.locator("#relief-1")).toHaveValue("6");
  const [beside] = await Promise.all([context.waitForEvent("page"), page.click("text=Sign in beside this page")]);
  await beside.locator("#f-name").waitFor();
  await enter(beside, "mira");
  await beside.waitForURL(`${address}/`);
  await beside.close();
  await page.locator("#relief-1").press("Enter");
  await expect(page.locator("#signed-out")).toHaveCount(0);
  await page.goto(`${job}/record`);
  await expect(page.locator("tbody tr").first()).toContainText(", mira");
  await expect(page.locator("tbody tr").first()).toContainText("6");
});

test("the counter takes in and is told what is not for it", async ({ page, shop: address }) => {
  await page.goto(`${address}/instruments/new`);
  await enter(page, "odd");
  await page.waitForURL(`${address}/instruments/new`);
  await page.fill("#f-name", "Wren");
  const job = await saveAndOpen(page);
  await page.goto(`${job}/relief?focus=asked`);
  await expect(page.locator("#relief-1")).toBeFocused();
  await page.keyboard.type("6");
  await page.keyboard.press("Enter");
  await expect(page.locator("main")).toContainText("odd is signed in as counter: this is for a technician");
  await page.goto(`${job}/record`);
  await expect(page.locator("tbody")).not.toContainText("6 thou");
});
