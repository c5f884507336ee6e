// axe on every page, in both themes.
import { AxeBuilder } from "@axe-core/playwright";
import { demoJob, expect, test } from "./bench.mjs";

for (const colorScheme of ["light", "dark"]) {
  test(`axe finds nothing, ${colorScheme}`, async ({ page, demo }) => {
    test.setTimeout(300_000);
    await page.emulateMedia({ colorScheme });
    const jobs = {};
    for (const name of ["heron", "siskin", "dunlin", "curlew", "wren", "knot", "osprey", "avocet", "lapwing", "gannet"]) {
      jobs[name] = await demoJob(page, demo.address, name);
    }
    const places = ["/", "/?q=nothing-like-it", "/stock", "/data", "/nowhere", "/instruments/new", "/instruments/1", "/instruments/1/edit", "/instruments/1/open", "/shop", "/shop?spec=low+electric", "/shop?new=bass"].map((place) => demo.address + place);
    for (const station of ["intake", "strings", "intonation?string=3", "intonation?string=6", "intonation?panel=places", "intonation?fret=5", "record"]) places.push(`${jobs.heron}/${station}`);
    places.push(`${jobs.heron}/strings?try=tuning&preset=a+whole+step+down`, `${jobs.siskin}/intonation`, `${jobs.dunlin}/intonation`, `${jobs.curlew}/intonation`);
    for (const [name, stations] of [["wren", ["relief", "action", "clearance"]], ["knot", ["relief"]], ["siskin", ["plan", "relief"]], ["curlew", ["plan"]], ["osprey", ["nut", "action", "plan"]], ["avocet", ["pickups", "whatif?usual_set=medium"]], ["lapwing", ["balance"]], ["gannet", ["intonation", "balance"]]]) {
      for (const station of stations) places.push(`${jobs[name]}/${station}`);
    }
    for (const place of places) {
      await page.goto(place);
      await page.evaluate(() => document.querySelectorAll("details").forEach((fold) => { fold.open = true; }));
      const found = await new AxeBuilder({ page }).analyze();
      const told = found.violations.map((violation) => `${place}: ${violation.id}: ${violation.nodes.map((node) => node.html.slice(0, 140)).join(" | ")}`);
      expect(told).toEqual([]);
    }
    await page.goto(`${jobs.heron}/intonation`);
    await page.keyboard.press("?");
    expect((await new AxeBuilder({ page }).analyze()).violations).toEqual([]);
  });
}
