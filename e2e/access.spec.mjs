// axe on every page, in both themes, in the colours of the system, and at twice the size.
import { AxeBuilder } from "@axe-core/playwright";
import { demoJob, expect, test } from "./bench.mjs";

const SEEN = [
  ["light", { colorScheme: "light" }, { width: 1280, height: 800 }],
  ["dark", { colorScheme: "dark" }, { width: 1280, height: 800 }],
  ["forced colours", { forcedColors: "active" }, { width: 1280, height: 800 }],
  // At 200 % the same screen has half as many pixels for the page.
  ["200 % zoom", { colorScheme: "light" }, { width: 640, height: 400 }],
];
for (const [name, media, screen] of SEEN) {
  test(`axe finds nothing, ${name}`, async ({ page, demo }) => {
    test.setTimeout(300_000);
    await page.emulateMedia(media);
    await page.setViewportSize(screen);
    const jobs = {};
    for (const name of ["heron", "siskin", "dunlin", "curlew", "wren", "knot", "osprey", "avocet", "lapwing", "gannet"]) {
      jobs[name] = await demoJob(page, demo.address, name);
    }
    const places = ["/", "/?q=nothing-like-it", "/stock", "/data", "/nowhere", "/instruments/new", "/instruments/1", "/instruments/1/edit", "/instruments/1/open", "/instruments/8/visits", "/shop", "/shop?spec=low+electric", "/shop?new=bass"].map((place) => demo.address + place);
    for (const station of ["intake", "strings", "intonation?string=3", "intonation?string=6", "intonation?panel=places", "intonation?fret=5", "record"]) places.push(`${jobs.heron}/${station}`);
    places.push(`${jobs.heron}/strings?try=tuning&preset=a+whole+step+down`, `${jobs.siskin}/intonation`, `${jobs.dunlin}/intonation`, `${jobs.curlew}/intonation`);
    for (const [name, stations] of [["wren", ["relief", "action", "clearance"]], ["knot", ["relief"]], ["dunlin", ["frets"]], ["siskin", ["plan", "relief"]], ["curlew", ["plan", "handover", "estimate"]], ["osprey", ["nut", "action", "plan"]], ["avocet", ["proof", "pickups", "whatif?usual_set=medium"]], ["lapwing", ["balance"]], ["gannet", ["intonation", "balance"]]]) {
      for (const station of stations) places.push(`${jobs[name]}/${station}`);
    }
    // The themes on every page; the other two on one page of each kind.
    const kind = (place) => place.replace(demo.address, "").replace(/\d+/g, "N").replace(/\?.*/, "");
    const seen = media.colorScheme && screen.width > 1000 ? places : places.filter((place, at) => places.findIndex((other) => kind(other) === kind(place)) === at);
    for (const place of seen) {
      await page.goto(place);
      await page.evaluate(() => document.querySelectorAll("details").forEach((fold) => { fold.open = true; }));
      const found = await new AxeBuilder({ page }).analyze();
      const told = found.violations.map((violation) => `${place}: ${violation.id}: ${violation.nodes.map((node) => node.html.slice(0, 140)).join(" | ")}`);
      expect(told).toEqual([]);
      expect(await page.evaluate(() => document.documentElement.scrollWidth - innerWidth), `${place} sideways`).toBeLessThanOrEqual(0);
    }
    await page.goto(`${jobs.heron}/intonation`);
    await page.keyboard.press("?");
    expect((await new AxeBuilder({ page }).analyze()).violations).toEqual([]);
  });
}
