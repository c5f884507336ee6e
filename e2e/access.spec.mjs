// axe on every page: all its rules by day; on one page of each kind also what colours can break in the dark and in the colours of the
// system, and everything once more at twice the size. `AXE=every` looks at every page in all of these.
import { AxeBuilder } from "@axe-core/playwright";
import { demoJob, expect, test } from "./bench.mjs";

const JOBS = {
  heron: ["intake", "strings", "intonation?string=3", "intonation?string=6", "intonation?panel=places", "intonation?fret=5", "record", "strings?try=tuning&preset=a+whole+step+down"],
  wren: ["relief", "action", "clearance"], knot: ["relief"], dunlin: ["frets", "intonation"], siskin: ["plan", "relief", "intonation"],
  curlew: ["plan", "intonation", "handover", "estimate"], osprey: ["nut", "action", "plan"], avocet: ["proof", "pickups", "whatif?usual_set=medium"],
  lapwing: ["balance"], gannet: ["intonation", "balance"],
};
const PAGES = ["/", "/?q=nothing-like-it", "/stock", "/data", "/nowhere", "/instruments/new", "/instruments/1", "/instruments/1/edit", "/instruments/1/open", "/instruments/8/visits", "/shop", "/shop?spec=low+electric", "/shop?new=bass", "/shop/figures", "/due", "/data/verify", "/practice", "/practice/card"];

const found = async (page, rules) => {
  const axe = new AxeBuilder({ page });
  const { violations } = await (rules ? axe.withRules(rules) : axe).analyze();
  return violations.map((violation) => `${violation.id}: ${violation.nodes.map((node) => node.html.slice(0, 140)).join(" | ")}`);
};

// All of them, and which is the first of its kind: that one is looked at more than once.
const kinds = new Set();
const ALL = [...PAGES.map((path) => [null, path]), ...Object.entries(JOBS).flatMap(([name, stations]) => stations.map((path) => [name, path]))].map(([name, path]) => {
  const kind = (name ? "job/" : "") + path.replace(/\d+/g, "N").replace(/\?.*/, "");
  const first = !kinds.has(kind);
  kinds.add(kind);
  return { name, path, first };
});
const PARTS = 4;

for (let part = 0; part < PARTS; part += 1) {
  test(`axe finds nothing, part ${part + 1} of ${PARTS}`, async ({ page, demo }) => {
    test.setTimeout(900_000);
    for (const { name, path, first } of ALL.filter((_, at) => at % PARTS === part)) {
      const place = name ? `${await demoJob(page, demo.address, name)}/${path}` : demo.address + path;
      await page.setViewportSize({ width: 1280, height: 800 });
      await page.emulateMedia({ colorScheme: "light", forcedColors: "none" });
      await page.goto(place);
      await page.evaluate(() => document.querySelectorAll("details").forEach((fold) => { fold.open = true; }));
      expect(await found(page), place).toEqual([]);
      if (!first && process.env.AXE !== "every") continue;
      await page.emulateMedia({ colorScheme: "dark", forcedColors: "none" });
      expect(await found(page, ["color-contrast", "link-in-text-block"]), `${place} in the dark`).toEqual([]);
      await page.emulateMedia({ colorScheme: "light", forcedColors: "active" });
      expect(await found(page, ["color-contrast", "link-in-text-block"]), `${place} in forced colours`).toEqual([]);
      // At 200 % the same screen has half as many pixels for the page.
      await page.emulateMedia({ colorScheme: "light", forcedColors: "none" });
      await page.setViewportSize({ width: 640, height: 400 });
      expect(await found(page), `${place} at twice the size`).toEqual([]);
      expect(await page.evaluate(() => document.documentElement.scrollWidth - innerWidth), `${place} sideways`).toBeLessThanOrEqual(0);
    }
    await page.setViewportSize({ width: 1280, height: 800 });
    if (part === 1) {
      // A job that is practised, in hand, handed in and judged.
      await page.goto(`${demo.address}/practice`);
      await page.getByRole("button", { name: "Begin: In tune open, and nowhere else" }).click();
      await expect(page.locator("#practice")).toBeVisible();
      const job = page.url().replace(/\/plan.*/, "");
      for (const path of ["relief?take=0", "intonation?take=1", "frets", "plan", "practice"]) {
        await page.goto(`${job}/${path}`);
        expect(await found(page), path).toEqual([]);
      }
      await page.getByRole("button", { name: "Hand in" }).click();
      await expect(page.locator("h1")).toHaveText("Not at par");
      expect(await found(page), "judged").toEqual([]);
    }
    if (part) return;
    await page.goto(`${await demoJob(page, demo.address, "heron")}/intonation`);
    await page.keyboard.press("?");
    expect(await found(page)).toEqual([]);
  });
}
