// Takes the pictures of the main views from demo data: node e2e/pictures.mjs [folder] [name...]
import { chromium } from "@playwright/test";
import { launchOptions } from "./chromium.mjs";
import { mkdtemp, rm, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { pluck, wav } from "./plucked.mjs";
import { start } from "./server.mjs";

const folder = process.argv[2] ?? "docs/screenshots";
const only = process.argv.slice(3);
const server = await start(["demo", "--listen", "127.0.0.1:0"]);
// What the microphone hears: a harmonic on string 3, and the fretted note 2.4 cents above it.
const sounds = await mkdtemp(join(tmpdir(), "gradimen-sound-"));
const played = join(sounds, "played.wav");
await writeFile(played, wav([pluck(369.994, { touched: true }), pluck(369.994 * 2 ** (2.4 / 1200))]));
const microphone = ["--use-fake-ui-for-media-stream", "--use-fake-device-for-media-stream", `--use-file-for-fake-audio-capture=${played}%noloop`];
const browser = await chromium.launch({ ...launchOptions, args: [...launchOptions.args, ...microphone] });

async function jobOf(page, name) {
  await page.goto(`${server.address}/?q=${name}`);
  return (await page.locator("tbody a").first().getAttribute("href")).replace(/\/(intonation|record|relief)$/, "");
}

const views = {
  "bench": async (page) => page.goto(server.address),
  "new-instrument": async (page) => page.goto(`${server.address}/instruments/new`),
  "instrument": async (page) => page.goto(`${server.address}/instruments/1`),
  "open-job": async (page) => page.goto(`${server.address}/instruments/1/open`),
  "strings": async (page) => page.goto(`${server.address}${await jobOf(page, "osprey")}/strings`),
  "intonation": async (page) => page.goto(`${server.address}${await jobOf(page, "heron")}/intonation?string=3`),
  "listening": async (page) => {
    await page.goto(`${server.address}${await jobOf(page, "osprey")}/intonation`);
    await page.click("[data-listen]");
    await page.waitForFunction(() => document.querySelector("[data-heard] svg") && document.querySelector("[data-heard]").textContent.includes("\u00b1"), null, { timeout: 15000 });
    await page.waitForTimeout(400);
  },
  "practice": async (page) => {
    await page.goto(`${server.address}/practice`);
    await page.getByRole("link", { name: "Slots that were never" }).click();
    await page.goto(`${page.url().match(/^.*\/jobs\/\d+/)[0]}/nut`);
    await page.locator("#practice").getByRole("link", { name: "6", exact: true }).click();
    await page.waitForTimeout(300);
  },
  "practice-card": async (page) => page.goto(`${server.address}/practice/card`),
  "intonation-out-of-travel": async (page) => page.goto(`${server.address}${await jobOf(page, "heron")}/intonation?string=6`),
  "intonation-why": async (page) => {
    await page.goto(`${server.address}${await jobOf(page, "heron")}/intonation?string=4`);
    await page.keyboard.press("w");
  },
  "intonation-places": async (page) => page.goto(`${server.address}${await jobOf(page, "siskin")}/intonation?panel=places`),
  "intonation-shared": async (page) => page.goto(`${server.address}${await jobOf(page, "dunlin")}/intonation`),
  "intonation-bass": async (page) => page.goto(`${server.address}${await jobOf(page, "bittern")}/intonation?fret=7`),
  "balance": async (page) => page.goto(`${server.address}${await jobOf(page, "lapwing")}/balance`),
  "balance-tail": async (page) => page.goto(`${server.address}${await jobOf(page, "stonechat")}/balance`),
  "relief": async (page) => page.goto(`${server.address}${await jobOf(page, "wren")}/relief`),
  "relief-twist": async (page) => page.goto(`${server.address}${await jobOf(page, "knot")}/relief`),
  "nut": async (page) => page.goto(`${server.address}${await jobOf(page, "bittern")}/nut`),
  "action": async (page) => page.goto(`${server.address}${await jobOf(page, "osprey")}/action`),
  "action-posts": async (page) => {
    await page.goto(`${server.address}${await jobOf(page, "wren")}/action`);
    // Read twice, so that its posts have something to do.
    for (const round of [0, 1]) for (const [string, gap] of [[1, "5"], [2, "5"], [3, "5.5"], [4, "5.5"], [5, "6"], [6, "6"]]) {
      await page.goto(page.url().replace(/\?.*/, `?string=${string}`));
      await page.fill(`#action-${string}`, gap);
      await page.keyboard.press("Enter");
      const asked = page.locator("#keep-read");
      await page.waitForTimeout(250);
      if (await asked.count()) await asked.click();
      await page.waitForTimeout(150 + round);
    }
    await page.goto(page.url().replace(/\?.*/, ""));
  },
  "intonation-clamped": async (page) => page.goto(`${server.address}${await jobOf(page, "gannet")}/intonation`),
  "shop": async (page) => page.goto(`${server.address}/shop`),
  "pickups": async (page) => page.goto(`${server.address}${await jobOf(page, "avocet")}/pickups`),
  "pickups-poles": async (page) => {
    await page.goto(`${server.address}${await jobOf(page, "avocet")}/pickups?pickup=1&side=treble`);
    await page.locator("#poles").scrollIntoViewIfNeeded();
    await page.evaluate(() => window.scrollTo(0, document.body.scrollHeight));
  },
  "what-if": async (page) => page.goto(`${server.address}${await jobOf(page, "avocet")}/whatif?preset=half+a+step+down&usual_set=medium&a4=440&touch=medium`),
  "clearance": async (page) => page.goto(`${server.address}${await jobOf(page, "wren")}/clearance`),
  "plan": async (page) => page.goto(`${server.address}${await jobOf(page, "osprey")}/plan`),
  "first-checks": async (page) => page.goto(`${server.address}${await jobOf(page, "siskin")}/plan`),
  "plan-done": async (page) => page.goto(`${server.address}${await jobOf(page, "curlew")}/plan`),
  "intake": async (page) => page.goto(`${server.address}${await jobOf(page, "wren")}/intake`),
  "frets": async (page) => page.goto(`${server.address}${await jobOf(page, "dunlin")}/frets`),
  "proof": async (page) => page.goto(`${server.address}${await jobOf(page, "avocet")}/proof?string=3&fret=14`),
  "handover": async (page) => page.goto(`${server.address}${await jobOf(page, "curlew")}/handover`),
  "visits": async (page) => page.goto(`${server.address}/instruments/8/visits`),
  "record": async (page) => page.goto(`${server.address}${await jobOf(page, "heron")}/record`),
  "tablet-action": async (page) => {
    await page.setViewportSize({ width: 820, height: 1180 });
    await page.goto(`${server.address}${await jobOf(page, "heron")}/action?string=2`);
  },
  "phone-intonation": async (page) => {
    await page.setViewportSize({ width: 390, height: 844 });
    await page.goto(`${server.address}${await jobOf(page, "heron")}/intonation?string=3`);
  },
  "intonation-dark": async (page) => {
    await page.emulateMedia({ colorScheme: "dark" });
    await page.goto(`${server.address}${await jobOf(page, "heron")}/intonation?string=3`);
  },
};

const size = { width: 1280, height: 800 };
for (const [name, open] of Object.entries(views)) {
  if (only.length && !only.includes(name)) continue;
  const page = await browser.newPage({ viewport: size, colorScheme: "light", reducedMotion: "reduce" });
  page.on("console", (message) => { if (message.type() === "error") console.log(name, message.text()); });
  page.on("pageerror", (error) => console.log(name, String(error)));
  await open(page);
  await page.evaluate(() => document.fonts.ready);
  await page.waitForTimeout(150);
  await page.screenshot({ path: `${folder}/${name}.png`, animations: "disabled", caret: "hide" });
  await page.close();
}
await browser.close();
await server.stop();
await rm(sounds, { recursive: true, force: true });
