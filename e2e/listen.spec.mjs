// Both hands on the instrument: what it plays is read, what the page orders is done, and no key is pressed. The sound is made here.
import { chromium } from "@playwright/test";
import { mkdtemp, rm, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { demoJob, expect, saveAndOpen, test } from "./bench.mjs";
import { launchOptions } from "./chromium.mjs";
import { microphone } from "./microphone.mjs";
import { pluck, wav } from "./plucked.mjs";

// Standard tuning, and how stiff such strings are.
const STRINGS = [[329.628, 1.2e-5], [246.942, 1.8e-5], [195.998, 3e-5], [146.832, 5e-5], [110, 7e-5], [82.407, 1e-4]];
const sharp = (hz, cents) => hz * 2 ** (cents / 1200);

// The harmonic at the twelfth and the fretted note of a string.
function pair([hz, stiffness], cents) {
  const lowest = 2 * hz * Math.sqrt((1 + 4 * stiffness) / (1 + stiffness));
  return [pluck(lowest, { stiffness: 4 * stiffness, touched: true }), pluck(sharp(lowest, cents), { stiffness: 4 * stiffness })];
}

// A job on a new instrument.
async function opened(page, address) {
  await page.goto(`${address}/instruments/new`);
  await page.selectOption("#f-family", "fixed_plate");
  await expect(page.locator("[name=typical_family]")).toHaveValue("fixed_plate");
  await page.locator("#all > summary").click();
  await page.fill("#f-name", "Wren");
  return saveAndOpen(page);
}

// A page that listens at a station of a job, or of a new one at its intonation, where nothing else is said; and its microphone.
async function hears(page, address, { station = "intonation", listen = "[data-listen]", on } = {}) {
  const heard = await microphone(page);
  await page.goto(`${on ?? await opened(page, address)}/${station}`);
  await page.locator(listen).click();
  // The ear knows a pluck by what was there before it: whatever the microphone's first moments were, this much is.
  const LEAD = 0.2;
  return { play: (sounds, room) => heard.play(wav([sounds].flat(), { ...room, lead: LEAD })), said: heard.said };
}

// As a hand leaves: what was heard is kept before.
async function toRecord(page) {
  await page.locator("nav[aria-label=Stations] a[href$='/record']").click();
  await expect(page).toHaveURL(/\/record/);
}

// What it plays lasts longer than a journey's usual time.
test.setTimeout(300_000);

const verdicts = (page) => page.locator("main table tbody tr", { hasText: "in spec" });

test("Chromium's own microphone is heard, and the string that it plays is named", async ({ bench }) => {
  const folder = await mkdtemp(join(tmpdir(), "gradimen-sound-"));
  const file = join(folder, "played.wav");
  // A busy machine loses pieces of a note: one of several comes across.
  await writeFile(file, wav([1, 2, 3, 4, 5].flatMap(() => pair(STRINGS[2], 2))));
  const played = ["--use-fake-ui-for-media-stream", "--use-fake-device-for-media-stream", `--use-file-for-fake-audio-capture=${file}`];
  const browser = await chromium.launch({ ...launchOptions, args: [...launchOptions.args, ...played] });
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await page.goto(`${await opened(page, bench.address)}/intonation`);
    await page.locator("[data-listen]").click();
    await expect(page.locator("[data-heard]")).toContainText("String 3 G3", { timeout: 120_000 });
  } finally {
    await browser.close();
    await rm(folder, { recursive: true, force: true });
  }
});

test("six strings are set by ear alone, without a key", async ({ bench, page }) => {
  const before = [3.1, -2.4, 4.2, 2.6, -3.5, 5];
  const ear = await hears(page, bench.address);
  // Twice over: no saddle is moved on one reading.
  for (const [index, string] of STRINGS.entries()) await ear.play([...pair(string, before[index]), ...pair(string, before[index])]);
  await expect(page.locator("main table tbody tr", { hasText: /(back|forward) .* turn/ })).toHaveCount(6, { timeout: 60_000 });
  // Each was turned as it was said, and is played again; from the lowest up, as it comes to hand.
  for (const string of [...STRINGS].reverse()) await ear.play(pair(string, 0.1));
  await expect(verdicts(page)).toHaveCount(6, { timeout: 60_000 });
  const said = await ear.said();
  const named = said.flatMap((text) => text.match(/^String \d/)?.[0] ?? []);
  expect(named.filter((name, index) => name !== named[index - 1])).toEqual([1, 2, 3, 4, 5, 6, 5, 4, 3, 2, 1].map((string) => `String ${string}`));
  expect(said.filter((text) => text.includes("did not arrive"))).toEqual([]);
  await expect(page.locator("#ear")).toContainText("turned as it was said, and read");
  await toRecord(page);
  const record = await page.locator("main").innerText();
  expect(record.match(/String \d: saddle .* (away from|toward) the neck/g) ?? []).toHaveLength(6);
});

test("a noisy line, a bend and a machine that hums are asked for again, and nothing of them is kept", async ({ bench, page }) => {
  const [harmonic] = pair(STRINGS[2], 0);
  // A finger moves smoothly: between two samples lies what is between them.
  const bent = Float32Array.from({ length: harmonic.length }, (_, n) => {
    const at = Math.max(0, Math.min(harmonic.length - 2, n + 110 * Math.sin(n / 9000)));
    const whole = Math.floor(at);
    return harmonic[whole] + (at - whole) * (harmonic[whole + 1] - harmonic[whole]);
  });
  const other = pluck(233.1);
  const both = harmonic.map((sample, n) => sample + 0.8 * other[n]);
  const says = page.locator("[data-heard]");
  const ear = await hears(page, bench.address);
  await ear.play(bent);
  await expect(says).toContainText(/hold still|until it is still/);
  await ear.play(both);
  await expect(says).toContainText("damp the other strings");
  await ear.play(harmonic, { floor: 0.9 });
  await expect(says).toContainText("no note stands out");
  expect((await ear.said()).filter((text) => text.includes("String 3"))).toEqual([]);
  await expect(page.locator("main table tbody tr", { hasText: "not read" })).toHaveCount(6);
});

test("a harmonic that nothing tells from a fretted note sends to the open string, and is no reading", async ({ bench, page }) => {
  const [hz, stiffness] = STRINGS[2];
  const [, bare] = pair(STRINGS[2], 0);
  const [, fretted] = pair(STRINGS[2], 6);
  const job = await opened(page, bench.address);
  await page.goto(`${job}/intonation`);
  const row = page.locator("main table tbody tr", { hasText: "G3" });
  const drop = (played) => page.locator("[data-recording]").setInputFiles({ name: "strokes.wav", mimeType: "audio/wav", buffer: wav(played) });
  await drop([bare, fretted, bare]);
  await expect(page.locator("[data-heard]")).toContainText("play string 3 open instead", { timeout: 15_000 });
  await expect(row).toContainText("not read");
  await drop([pluck(hz, { stiffness }), fretted]);
  await expect(row).toContainText(/[+]?[567][.]\d/, { timeout: 15_000 });
});

test("a recording that is dropped on the page is read like the microphone", async ({ bench, page }) => {
  await page.goto(`${bench.address}/instruments/new`);
  await page.locator("#all > summary").click();
  await page.fill("#f-name", "Wren");
  const job = await saveAndOpen(page);
  await page.goto(`${job}/intonation`);
  // This browser has no microphone.
  await page.locator("[data-listen]").click();
  await expect(page.locator("[data-heard]")).toContainText("then press Listen");
  await expect(page.locator("[data-listen]")).toHaveText("Listen");
  const choose = page.locator("[data-recording]");
  await choose.setInputFiles({ name: "notes.txt", mimeType: "text/plain", buffer: Buffer.from("no sound at all") });
  await expect(page.locator("[data-heard]")).toContainText("notes.txt is no recording that this browser reads");
  await choose.setInputFiles({ name: "strings.wav", mimeType: "audio/wav", buffer: wav([...pair(STRINGS[3], 4.2), ...pair(STRINGS[4], -3)]) });
  await expect(page.locator("main table tbody tr").nth(3)).toContainText("+4.", { timeout: 20_000 });
  await expect(page.locator("main table tbody tr").nth(4)).toContainText(/[−-]3/, { timeout: 20_000 });
  await expect(page.locator("main table tbody tr", { hasText: "not read" })).toHaveCount(4);
});

test("a recording that is cut to its note is read, and one without any note says so", async ({ bench, page }) => {
  const job = await opened(page, bench.address);
  await page.goto(`${job}/intonation`);
  const says = page.locator("[data-heard]");
  const drop = (name, sounds, room) => page.locator("[data-recording]").setInputFiles({ name, mimeType: "audio/wav", buffer: wav(sounds, { lead: 0, ...room }) });
  await drop("cut.wav", pair(STRINGS[2], 6));
  await expect(page.locator("main table tbody tr", { hasText: "G3" })).toContainText(/[+]?[567][.]\d/, { timeout: 20_000 });
  // The recording is at its end: nobody has to stop it.
  await expect(page.locator("[data-listen]")).toHaveText("Listen");
  await expect(says).toContainText("String 3 G3");
  await drop("room.wav", [new Float32Array(48000)]);
  await expect(says).toContainText("nothing was plucked");
  await drop("hum.wav", [Float32Array.from({ length: 48000 }, (_, n) => 0.1 * Math.sin((2 * Math.PI * 50 * n) / 48000))], { gap: 0 });
  await expect(says).toContainText("mains hum");
  await drop("damped.wav", [pair(STRINGS[2], 0)[1].slice(0, 12000)], { lead: 0.2 });
  await expect(says).toContainText("too short");
});

test("what was heard is kept though the page is left at once", async ({ bench, page }) => {
  const job = await opened(page, bench.address);
  await page.goto(`${job}/intonation`);
  // A machine that is slow to answer.
  await page.route("**/tell", async (route) => {
    await new Promise((resolve) => setTimeout(resolve, 1500));
    await route.continue();
  });
  await page.locator("[data-recording]").setInputFiles({ name: "strokes.wav", mimeType: "audio/wav", buffer: wav([...pair(STRINGS[2], 3), ...pair(STRINGS[3], 4), ...pair(STRINGS[4], -3)]) });
  await expect(page.locator("[data-heard]")).toContainText("String 5 A2: 3 flat", { timeout: 30_000 });
  await toRecord(page);
  const record = await page.locator("main").innerText();
  expect(record.match(/String [345]\b.*by ear/g) ?? []).toHaveLength(3);
});

test("the levels of a pickup are heard over several strokes, and its tilt is told with its doubt", async ({ bench, page }) => {
  await page.goto(`${bench.address}/instruments/new`);
  await page.locator("#all > summary").click();
  await page.fill("#f-name", "Wren");
  const job = await saveAndOpen(page);
  await page.goto(`${job}/pickups`);
  // Each string a decibel and a half louder than the one below it; a hand that strikes nearly alike.
  const strokes = STRINGS.flatMap(([hz, stiffness], index) => [0, 0.4, -0.3].map((uneven) => {
    const gain = 10 ** ((-1.5 * index + uneven) / 20);
    return pluck(hz, { stiffness }).map((sample) => 0.6 * gain * sample);
  }));
  await expect(page.locator("[data-listen]").first()).toContainText("Levels by ear");
  await page.locator("[data-recording]").setInputFiles({ name: "strokes.wav", mimeType: "audio/wav", buffer: wav(strokes) });
  await expect(page.locator("[data-heard]")).toContainText("that was the last", { timeout: 60_000 });
  await expect(page.locator("main")).toContainText(/the treble side (6|7|8)\.\d \u00b1 0\.\d dB louder/);
  await toRecord(page);
  const record = await page.locator("main").innerText();
  expect(record.match(/ \u00b1 0\.\d dB, by ear/g) ?? []).toHaveLength(6);
});

const played = (page, sound) => page.locator("[data-recording]").setInputFiles({ name: "strokes.wav", mimeType: "audio/wav", buffer: wav(sound) });
const softer = (sound, decibels) => sound.map((sample) => 10 ** (-decibels / 20) * sample);

test("a note is struck from hard to soft, and where its buzz begins is told with its doubt", async ({ bench, page }) => {
  const job = await opened(page, bench.address);
  await page.goto(`${job}/clearance`);
  const fifth = sharp(STRINGS[0][0], 500);
  const buzzes = pluck(fifth, { buzzes: 0.35 });
  const clean = pluck(fifth);
  const other = pluck(sharp(STRINGS[0][0], 740));
  await played(page, [other, buzzes, softer(buzzes, 4), softer(clean, 7)]);
  await expect(page.locator("main")).toContainText(/Heard: .*fret 5/, { timeout: 20_000 });
  await toRecord(page);
  await expect(page.locator("main")).toContainText(/String 1 buzzes at fret 5 from 5\d \u00b1 \d+ % of the hardest stroke/);
});

test("the play test by ear keeps the notes that buzz and takes back those that are clean now", async ({ bench, page }) => {
  const job = await opened(page, bench.address);
  await page.goto(`${job}/proof`);
  const at = (fret, how) => pluck(sharp(STRINGS[0][0], 100 * fret), how);
  await played(page, [at(2), at(3, { buzzes: 0.4 }), at(4)]);
  await expect(page.locator("main")).toContainText("string 1, fret 3: buzz", { timeout: 20_000 });
  // A soft stroke shows nothing.
  await played(page, [at(4), softer(at(3), 9)]);
  await expect(page.locator("[data-heard]")).toContainText("strike it as hard", { timeout: 20_000 });
  await expect(page.locator("main")).toContainText("string 1, fret 3: buzz");
  await played(page, [at(3)]);
  await expect(page.locator("main .notice-warning")).toHaveCount(0, { timeout: 20_000 });
  await toRecord(page);
  const record = await page.locator("main").innerText();
  expect(record).toMatch(/Play test, string 1, fret 3: buzz, by ear, \d\d+ % sure/i);
  expect(record.match(/, by ear, \d+ % sure/g)).toHaveLength(2);
});

test("nonsense on the line ends that line and nothing else", async ({ bench, page }) => {
  await page.goto(`${bench.address}/instruments/new`);
  await page.locator("#all > summary").click();
  await page.fill("#f-name", "Wren");
  const job = await saveAndOpen(page);
  await page.goto(`${job}/intonation`);
  const ends = (messages) => page.evaluate(([address, all]) => new Promise((resolve) => {
    const socket = new WebSocket(address);
    const late = setTimeout(() => resolve("open"), 1500);
    socket.onclose = () => {
      clearTimeout(late);
      resolve("closed");
    };
    socket.onopen = () => all.forEach((message) => socket.send(Array.isArray(message) ? Float32Array.from(message) : message));
  }), [`${job.replace("http", "ws")}/listen`, messages]);
  for (const wrong of ["{", "{}", '{"rate":1}', '{"rate":1e99}', '{"rate":"fast"}', '{"rate":48000}', '{"rate":48000,"for":"dance"}', '{"rate":48000,"for":"level-9"}']) expect(await ends([wrong])).toBe("closed");
  expect(await ends([[0, 1, 2]])).toBe("closed");
  const wild = Array.from({ length: 20000 }, (_, n) => [Number.NaN, Infinity, -Infinity, 1e30, 0, Math.sin(n)][n % 6]);
  expect(await ends(['{"rate":48000,"for":"intonation"}', wild, wild])).toBe("open");
  expect(await ends(['{"rate":48000,"for":"intonation"}', wild, wild, "end"])).toBe("closed");
  const health = await page.request.get(`${bench.address}/health`);
  expect(health.status()).toBe(200);
});

test("strings are tuned by ear, and how far they fell is told when the last of them was plucked", async ({ bench, page }) => {
  const open = ([hz, stiffness], cents) => pluck(sharp(hz, cents), { stiffness });
  const says = page.locator("[data-heard]");
  const ear = await hears(page, bench.address, { station: "strings", listen: "[data-listen=tune]" });
  await ear.play(open(STRINGS[4], -14));
  await expect(says).toContainText("String 5 A2: 14 flat");
  await expect(says).toContainText("tune it up");
  await ear.play(open(STRINGS[4], 0.2));
  await expect(says).toContainText("String 5 A2: there");
  await ear.play(open(STRINGS[0], 7));
  await expect(says).toContainText("String 1 E4: 7 sharp");
  await expect(says).toContainText("tune it down");
  await page.locator("[data-listen=stretch]").click();
  const fell = [3, 5, 4, 12.5, 2, 1];
  for (const [index, string] of STRINGS.entries()) {
    await ear.play(open(string, -fell[index]));
    await expect(says).toContainText(index < 5 ? `${5 - index} more to pluck` : "The worst: string 4");
  }
  await toRecord(page);
  await expect(page.locator("main")).toContainText("Stretched: fell by +12.5 cents");
});

test("a float's strings are listened for where they land, the thickest first", async ({ page, demo }) => {
  const on = await demoJob(page, demo.address, "lapwing");
  const says = page.locator("[data-heard]");
  // Before the claw was turned no string lands anywhere.
  const open = ([hz, stiffness], cents) => pluck(sharp(hz, cents), { stiffness });
  const ear = await hears(page, demo.address, { on, station: "balance" });
  await ear.play(open(STRINGS[5], 0));
  await expect(says).toContainText("First the claw");
  await page.locator("#done button").click();
  await expect(page.locator("main")).toContainText("Tune each once, in this order");
  const order = await page.locator("main").innerText();
  const off = Number(order.match(/6 to ([\u2212+-]?\d+) c/)[1].replace("\u2212", "-"));
  expect(off).toBeLessThan(-100);
  await ear.play(open(STRINGS[4], 0));
  await expect(says).toContainText("First string 6");
  await ear.play(open(STRINGS[5], off - 40));
  await expect(says).toContainText(/String 6 E2: (39|40|41).* flat/);
  await ear.play(open(STRINGS[5], off + 1));
  await expect(says).toContainText("String 6 E2: there");
  await expect(says).toContainText("now string 5");
});
