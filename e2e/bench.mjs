// What the journeys share: a server with a data folder of its own, and hands.
import { expect, test as base } from "@playwright/test";
import { copyFile, mkdtemp, rm } from "node:fs/promises";
import { tmpdir } from "node:os";
import { dirname, join } from "node:path";
import { run, start } from "./server.mjs";

export { expect };

export const test = base.extend({
  // An empty bench on a kept data file, which can be killed and started again at the same address.
  bench: async ({}, use) => {
    const folder = await mkdtemp(join(tmpdir(), "gradimen-journey-"));
    let server = await start(["serve", "--data", folder, "--listen", "127.0.0.1:0"]);
    await use({
      get address() { return server.address; },
      kill: () => server.stop("SIGKILL"),
      again: async () => {
        server = await start(["serve", "--data", folder, "--listen", server.address.replace("http://", "")]);
      },
    });
    await server.stop();
    await rm(folder, { recursive: true, force: true });
  },
  // The demo's data, made once for each worker: making them takes many times what a journey's start may.
  demoData: [async ({}, use) => {
    const folder = await mkdtemp(join(tmpdir(), "gradimen-demo-data-"));
    const server = await start(["demo", "--listen", "127.0.0.1:0"]);
    const file = join(folder, "demo.db");
    await run(["backup", file, "--data", dirname(server.said().match(/^(.*gradimen\.db): /m)[1])]);
    await server.stop();
    await use(file);
    await rm(folder, { recursive: true, force: true });
  }, { scope: "worker" }],
  // The demo's bench.
  demo: async ({ demoData }, use) => {
    const folder = await mkdtemp(join(tmpdir(), "gradimen-journey-"));
    await copyFile(demoData, join(folder, "gradimen.db"));
    const server = await start(["serve", "--data", folder, "--listen", "127.0.0.1:0"]);
    await use({ address: server.address });
    await server.stop();
    await rm(folder, { recursive: true, force: true });
  },
  // Nothing may be refused by the policy, fail to load or throw, in any journey.
  page: async ({ page }, use) => {
    const wrong = [];
    page.on("pageerror", (error) => wrong.push(String(error)));
    page.on("console", (message) => {
      if (message.type() === "error" && /Content Security Policy|ERR_FAILED|404/.test(message.text()) && !message.location().url.endsWith("/nowhere")) wrong.push(message.text());
    });
    await use(page);
    expect(wrong).toEqual([]);
  },
});

// Goes to an element with the Tab key alone.
export async function tabTo(page, selector) {
  for (let step = 0; step < 120; step += 1) {
    await page.waitForLoadState();
    // Enter may still be leading to another page.
    const there = await page.evaluate((wanted) => document.activeElement?.matches(wanted) ?? false, selector).catch(() => null);
    if (there) return;
    if (there === null) continue;
    await page.keyboard.press("Tab");
  }
  throw new Error(`the Tab key never reached ${selector}`);
}

// Writes into a field reached with the Tab key.
export async function write(page, selector, text) {
  await tabTo(page, selector);
  await page.keyboard.press("Control+A");
  await page.keyboard.type(text);
}

// Keys of the page work outside of fields.
export async function key(page, name) {
  await page.keyboard.press("Escape");
  if (name === "d") await expect(page.locator("#done button")).toBeEnabled();
  await page.keyboard.press(name);
}

// The two ways a person has at the bench; the journeys are made with both.
export const hands = {
  keyboard: (page) => {
    const reach = async (selector) => {
      const wanted = page.locator(selector).first();
      await wanted.waitFor();
      for (let step = 0; step < 200; step += 1) {
        // Forward or back, whichever is nearer; nothing is done once it has the focus.
        const way = await wanted.evaluate((element) => {
          const at = document.activeElement;
          if (element === at) return "";
          const before = at !== document.body && at.compareDocumentPosition(element) & Node.DOCUMENT_POSITION_PRECEDING;
          return before ? "Shift+Tab" : "Tab";
        });
        if (!way) return wanted;
        await page.keyboard.press(way);
      }
      throw new Error(`the Tab key never reached ${selector}`);
    };
    return {
      press: async (selector) => { await reach(selector); await page.keyboard.press("Enter"); },
      tick: async (selector) => { await reach(selector); await page.keyboard.press("Space"); },
      write: async (selector, text) => { await reach(selector); await page.keyboard.press("Control+A"); await page.keyboard.type(text); },
      // A list forgets the letters before a pause of a second: on a machine that is busy they are typed again, as a hand would.
      choose: async (selector, label) => {
        const list = await reach(selector);
        for (let time = 0; time < 3; time += 1) {
          await page.keyboard.type(label);
          const chosen = await list.evaluate((element) => element.selectedOptions[0].label).catch(() => label);
          if (chosen.startsWith(label)) return;
          await page.waitForTimeout(1200);
        }
      },
    };
  },
  touch: (page) => {
    const tap = (selector) => page.locator(selector).first().tap();
    return {
      press: tap,
      tick: tap,
      write: async (selector, text) => { await tap(selector); await page.keyboard.press("Control+A"); await page.keyboard.type(text); },
      // The list that opens is the system's own and not part of the page.
      choose: (selector, label) => page.locator(selector).selectOption({ label }),
    };
  },
};

// A recorded guitar with an open job, made by the shortest way; answers with the job's address.
export async function openJob(page, address, name = "Heron", family = "") {
  await page.goto(`${address}/instruments/new`);
  await page.fill("#f-name", name);
  if (family) {
    await page.selectOption("#f-family", family);
    await expect(page.locator("[name=typical_family]")).toHaveValue(family);
  }
  return saveAndOpen(page);
}

// Saves the record as it is filled in and opens a job on it; answers with the job's address.
export async function saveAndOpen(page) {
  await page.click("#save");
  await page.click("text=Open a job");
  await page.fill("#f-purpose", "before loan");
  await page.click("button:has-text('Open the job')");
  await page.waitForURL(/\/jobs\/\d+\/strings/);
  return page.url().replace(/\/strings.*/, "");
}

export async function demoJob(page, address, name) {
  await page.goto(`${address}/?q=${name}`);
  return address + (await page.locator("tbody a").first().getAttribute("href"));
}
