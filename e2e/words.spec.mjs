// The trade's words on every page, and none of those that were given up; how many bytes a page is.
import { demoJob, expect, test } from "./bench.mjs";

// Given up: each stands for a whole family of sentences. Where a word has a right use too, the pattern leaves that out.
const GIVEN_UP = [
  /rod one-way/i, /height station/i, /read over fret/i, /\bschool\b(?! band| big band)/i, /pulls? [\d.]+ N in all/i, /read again/i,
  /before the rest is known/i, /set back\b/i, /belongs at/i, /short of room/i, /slack the/i, /stands proud/i, /bent backward/i,
  /keep mine|drop mine/i, /take (it )?in a job|take it in\b/i, /record the instrument/i, /fill in/i, /the body holds the neck/i,
  /intonation screw/i, /turned round/i, /comes nearer/i, /off its hooks|coils part/i, /whose, and why|why it is here/i,
  /where the strings lie/i, /usual values|wider doubt/i, /dropped a step/i, /nothing known of the set/i, /try without keeping/i,
  /heights to come/i, /when the plan is done/i, /is that right\?/i, /readings scatter by/i, /cannot be told from nothing/i,
  /not kept: read/i, /another window was quicker/i, /ways out/i, /will not turn/i, /no thread left/i, /both carrying/i,
  /under its tail/i, /springs answer|of the answer/i, /readings first/i, /one move in all/i, /make it so/i, /what it would cost/i,
  /pinches/i, /tightest place/i, /clean under this/i, /what was told/i, /took back entry/i, /counts again|puts again/i,
  /that was not done|there is nothing here/i, /\bin work\b/i,
];
const IN_USE = [
  /truss rod/i, /measure action at fret 12/i, /tension/i, /too low/i, /too high/i, /in spec/i, /measure again/i, /setback/i, /out of travel/i,
  /travel left/i, /slacken the string/i, /pole pieces/i, /break point/i, /back-bow/i, /typical/i, /reason for visit/i, /options/i,
  /smallest clearance/i, /of breaking strength/i, /share of spring force/i, /entries, newest first/i, /page not found/i, /string spread/i,
  /method/i, /player and complaint/i, /after all adjustments/i,
];
const JOBS = ["heron", "wren", "bittern", "dunlin", "curlew", "siskin", "osprey", "knot", "avocet", "lapwing", "stonechat", "gannet"];
const STATIONS = ["intake", "strings", "balance", "relief", "nut", "action", "intonation", "intonation?panel=places", "pickups", "clearance", "frets", "plan", "proof", "whatif", "record", "handover", "estimate"];

// Everything that is read or heard on a page.
const said = (page) => page.evaluate(() => {
  for (const fold of document.querySelectorAll("details")) fold.open = true;
  const heard = [...document.querySelectorAll("[aria-label], [title], [placeholder]")];
  const names = heard.flatMap((part) => ["aria-label", "title", "placeholder"].map((name) => part.getAttribute(name) ?? ""));
  return [document.body.innerText, ...names].join("\n");
});

// The lines that say what was given up.
const old = (text) => text.split("\n").filter((line) => GIVEN_UP.some((word) => word.test(line)));

test("pages speak the trade's words, and a page is not heavy", async ({ page, demo }) => {
  test.setTimeout(240_000);
  const places = ["/", "/practice", "/practice/card", "/stock", "/data", "/shop", "/nowhere", "/instruments/new", "/instruments/1", "/instruments/1/edit", "/instruments/1/open", "/instruments/8/visits"];
  for (const name of JOBS) {
    const job = (await demoJob(page, demo.address, name)).replace(demo.address, "");
    places.push(...STATIONS.map((station) => `${job}/${station}`));
  }
  const heaviest = new Map();
  let all = "";
  for (const place of places) {
    const answer = await page.goto(demo.address + place);
    const kind = place.replace(/\/\d+/g, "/N");
    heaviest.set(kind, Math.max(heaviest.get(kind) ?? 0, (await answer.body()).length));
    const text = await said(page);
    expect(old(text), place).toEqual([]);
    all += text;
  }
  for (const word of IN_USE) expect(word.test(all), `no page says ${word}`).toBe(true);
  const told = [...heaviest].sort(([, one], [, other]) => other - one);
  console.log(`bytes of pages: ${told.map(([kind, bytes]) => `${kind} ${bytes}`).join(", ")}`);
  for (const [kind, bytes] of told) expect(bytes, kind).toBeLessThan(80_000);
});

test("what is refused or asked about is said in the trade's words", async ({ page, demo }) => {
  const job = await demoJob(page, demo.address, "heron");
  await page.goto(`${job}/relief?focus=relief-1`);
  for (const [typed, answer] of [
    ["abc", /Not saved: "abc" is not understood.*write/],
    ["-5", /Not saved: "-5".*relief lies between/],
    ["90", /That looks off: you entered 90 .*expected about/],
  ]) {
    await page.locator("#relief-1").fill(typed);
    await page.locator("#relief-1").press("Enter");
    await expect(page.locator("[role=alert], [role=alertdialog]")).toContainText(answer);
    const text = await said(page);
    expect(old(text), typed).toEqual([]);
  }
});
