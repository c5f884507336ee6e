// Vibrato, pickups and what-if, each by keyboard and by touch.
import { demoJob, expect, hands, openJob, test } from "./bench.mjs";

test.use({ hasTouch: true });

const headline = (page) => page.locator("main h2").first();

for (const [way, hand] of Object.entries(hands)) {
  test(`nines to tens on a floating vibrato, by ${way}`, async ({ page, demo }) => {
    const act = hand(page);
    const lapwing = await demoJob(page, demo.address, "lapwing");
    await page.goto(`${lapwing}/whatif`);
    await act.choose("#f-usual_set", "light");
    await act.press("button:has-text('Work it out')");
    await expect(page.locator("main")).toContainText("claw, both screws");
    await act.press("button:has-text('Fit this set')");
    await page.waitForURL(/\/plan/);
    await act.press("a[data-digit='3']");
    await expect(headline(page)).toContainText("Tune up to pitch");
    await act.write("#balance-1", "6.5 mm");
    await page.keyboard.press("Enter");
    await expect(headline(page)).toContainText("Claw");
    // Each turn is followed by a reading; this plate does what it is expected to.
    let expected = "2.5";
    for (let round = 0; round < 12; round += 1) {
      const said = await headline(page).textContent();
      const seen = await page.locator("#undo [name=seen]").inputValue();
      if (said.includes("Claw")) {
        [, expected] = (await page.locator("main").textContent()).match(/expect (\d+\.\d+)/);
        await act.press("#done button");
      } else if (said.includes("measure the gap")) {
        await act.write("#balance-1", `${expected} mm`);
        await page.keyboard.press("Enter");
      } else {
        break;
      }
      await expect(page.locator("#undo [name=seen]")).not.toHaveValue(seen);
    }
    await expect(headline(page)).toHaveText("Leave the claw");
    // What the plate moved is measured again, station after station.
    await expect(page.locator("#next")).toContainText("relief");
    await act.press("#next");
    await page.waitForURL(/relief/);
    await expect(headline(page)).toContainText("measure again");
  });

  test(`a heavy set half a step down on a decked vibrato, by ${way}`, async ({ page, bench }) => {
    const act = hand(page);
    const job = await openJob(page, bench.address, "Bunting", "knife_edge_vibrato");
    await page.goto(`${job}/whatif`);
    await act.choose("#f-preset", "half a step down");
    await act.choose("#f-usual_set", "heavy, wound third");
    await act.choose("#f-school", "decked, dive only");
    await act.choose("#f-springs", "2");
    await act.press("button:has-text('Work it out')");
    // Too few are known before one string is off.
    await expect(page.locator(".notice-stop")).toContainText(/2 springs cannot hold this at its target: [345] could/);
    await act.choose("#f-springs", "5");
    await act.press("button:has-text('Work it out')");
    await expect(page.locator(".notice-stop")).toHaveCount(0);
    await act.press("button:has-text('Fit this set')");
    await page.waitForURL(/\/plan/);
    await act.press("a[data-digit='3']");
    await expect(headline(page)).toContainText("measure the gap");
    await expect(page.locator("main")).toContainText("decked, dive only");
    await act.write("#balance-1", "4 mm");
    await page.keyboard.press("Enter");
    await expect(headline(page)).toContainText("Claw in: both screws");
    await expect(page.locator("main")).toContainText("can fly: glasses on");
    for (let round = 0; round < 5 && (await headline(page).textContent()).includes("Claw in"); round += 1) {
      await act.press("#done button");
      await expect(headline(page)).toContainText("measure the gap again");
      await act.write("#balance-1", "flat");
      await page.keyboard.press("Enter");
      await expect(headline(page)).not.toContainText("measure the gap again");
    }
    await expect(headline(page)).toHaveText("Leave the claw");
    await expect(page.locator("main")).toContainText(/Held down by \d+/);
    // One undo takes the whole change back, once what came after it is undone.
    await page.goto(`${job}/record`);
    await expect(page.locator("main")).toContainText("Vibrato target: decked");
    await expect(page.locator("main")).toContainText("5 springs, parallel");
  });

  test(`a tail with one spring, and its spring measured, by ${way}`, async ({ page, bench }) => {
    const act = hand(page);
    const job = await openJob(page, bench.address, "Stonechat", "rocking_tail");
    await page.goto(`${job}/balance`);
    await expect(headline(page)).toContainText("under the bar");
    await act.write("#balance-1", "flat");
    await page.keyboard.press("Enter");
    await expect(page.locator("#job")).toContainText("a tail does not lie flat");
    await act.write("#balance-1", "6 mm");
    await page.keyboard.press("Enter");
    await expect(headline(page)).toContainText("Spring tighter:");
    await expect(page.locator("main")).toContainText("rocking bridge upright");
    await act.press("summary:has-text('The spring under it')");
    await act.write("#f-spring_length", "25.5 mm");
    await act.press("form:has(#f-spring_length) button");
    await expect(page.locator("#undo button")).toHaveAttribute("title", /25.5 mm long/);
    await expect(headline(page)).toContainText("Spring tighter:");
    await act.press("#done button");
    await expect(headline(page)).toContainText("measure the gap again");
    await act.write("#balance-1", "8 mm");
    await page.keyboard.press("Enter");
    await expect(headline(page)).toHaveText("Leave the spring");
  });

  test(`another set and tuning are looked at, put on and undone, by ${way}`, async ({ page, demo }) => {
    const act = hand(page);
    const avocet = await demoJob(page, demo.address, "avocet");
    await page.goto(`${avocet}/plan`);
    await act.press("a[data-digit='i']");
    await expect(headline(page)).toContainText("Choose a change");
    await act.choose("#f-preset", "half a step down");
    await act.choose("#f-usual_set", "heavy, wound third");
    await act.press("button:has-text('Work it out')");
    await expect(headline(page)).toContainText("N, ");
    await expect(page.locator("main")).toContainText("binds");
    await act.press("button:has-text('Fit this set')");
    await page.waitForURL(/\/plan/);
    await expect(page.locator("main")).toContainText("measure relief");
    await expect(page.locator("header")).toContainText(".012");
    await act.press("#undo button");
    await expect(page.locator("header")).toContainText(".010");
  });

  test(`pickups after a change of height, by ${way}`, async ({ page, demo }) => {
    const act = hand(page);
    const avocet = await demoJob(page, demo.address, "avocet");
    await page.goto(`${avocet}/pickups`);
    await expect(headline(page)).toContainText(/(Raise|Lower) \d\.\d+ mm/);
    await act.press("#done button");
    await expect(headline(page)).toContainText("measure the gap");
    // The rest is read; nothing is turned.
    for (let lane = 1; lane <= 6; lane += 1) {
      await act.write(`#pickup-${lane}`, lane % 2 ? "4/64" : "6/64");
      await page.keyboard.press("Enter");
      await expect(page.locator(`#pickup-${lane}`)).toHaveValue("");
      const sure = page.locator("#keep-read");
      if (await sure.count()) await act.press("#keep-read");
    }
    // The first string is lowered: the gaps of the treble side follow by themselves.
    const gap = () => page.locator("tbody tr", { hasText: "bridge, treble" }).locator("td.num").first().textContent();
    const before = parseFloat(await gap());
    await page.goto(`${avocet}/action?string=1`);
    await act.press("summary:has-text('another amount')");
    await act.write("#f-turns", "1/4");
    await act.choose("#f-way", "down");
    await act.press("form:has(#f-turns) button");
    await expect(page.locator("#undo button")).toHaveAttribute("title", /Action, saddle height, string 1: 1\/4 turn down/);
    await page.goto(`${avocet}/pickups`);
    await expect(page.locator("tbody tr", { hasText: "bridge, treble" })).toContainText(/carried|measure again/);
    expect(parseFloat(await gap())).toBeLessThan(before);
    await act.write("#f-level", "-18.5");
    await act.press("form:has(#f-level) button");
    await expect(page.locator("main")).toContainText("the quietest");
    // Pole by pole of the pickup in hand: they are fixed here, and told apart.
    // It lies open where poles have been read already.
    if (!(await page.locator("#f-pole_gap").isVisible())) await act.press("summary:has-text('string by string')");
    await act.write("#f-pole_gap", "2.4 mm");
    await act.press("form:has(#f-pole_gap) button");
    const pole = page.locator("#poles tbody tr").first();
    await expect(pole).toContainText("2.4 mm");
    await expect(pole).toContainText("fixed");
    await act.press("a:has-text('bridge, bass')");
    await expect(page).toHaveURL(/side=bass/);
    await act.press("summary:has-text('Another target')");
    await act.write("#f-pickup_treble", "2 mm");
    await act.write("#f-pickup_bass", "so near");
    await act.press("form:has(#f-pickup_bass) button");
    await expect(page.locator("#f-pickup_bass")).toHaveValue("so near");
    await expect(page.locator("#h-pickup_bass .wrong")).toBeVisible();
    await act.write("#f-pickup_bass", "2.5 mm");
    await act.press("form:has(#f-pickup_bass) button");
    await expect(page.locator("main")).toContainText("target 2.50 mm");
  });
}
