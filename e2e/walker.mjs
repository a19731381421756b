// Walks a job by the run alone, from its first card to the last, as a person would with a browser: every
// card answered by what is on it. Where nothing is wrong it reads the middle of what is expected.
import assert from "node:assert/strict";
import { onStep, spokenTo } from "./harness.mjs";

/** What is read where nothing is wrong; `null` where the button Pass is pressed. */
function sound(text, step, outcome) {
  if (outcome) return null;
  const thrown = /-t-([\d-]+)$/.exec(step);
  // A two-way switch thrown opens, two close again (common practice, no source).
  if (thrown && thrown[1].split("-").length % 2) return "open";
  if (/-open$/.test(step)) return "open";
  const band = /expect\s+([\d.]+)–([\d.]+) (Ω|kA)/.exec(text);
  if (/ir-|-joined/.test(step)) return ">999";
  if (/^rcd-/.test(step)) return "24.2";
  if (band) return ((Number(band[1]) + Number(band[2])) / 2).toFixed(2);
  if (/^(earthing|bond-)/.test(step)) return ".02";
  if (/^pfc/.test(step)) return "1.20";
  if (/^(zs|loop|zdb)/.test(step)) return "0.40";
  assert.fail(`nothing to read for ${step}: ${text}`);
}

/** The page that isolates and proves, filled in and sent. */
async function proves(page, press, { place, neutral }) {
  await page.waitForURL(/isolate/);
  const alone = (await page.locator("[name=place]").count()) > 0;
  const ticked = async (name) => {
    const box = page.locator(`input[type=checkbox][name=${name}]`);
    if (await box.count()) await (await onStep(page, box)).check();
  };
  await ticked("loads");
  await ticked("locked");
  if (alone && neutral) await ticked("neutral");
  if (alone) await page.getByLabel("Point of work").fill(place);
  await page.getByLabel("Lock, and who keeps the key").fill("padlock 2, key with Odile Wren");
  await ticked("before");
  await onStep(page, page.locator(".pair input[inputmode=decimal]").first());
  for (const box of await page.locator(".pair input[inputmode=decimal]").all()) await box.fill("0");
  await ticked("after");
  await page.getByLabel("By", { exact: true }).fill("Odile Wren");
  await press(page.getByRole("button", { name: /Record what the indicator/ }));
  await page.waitForURL(/run/);
  return alone;
}

/** Walks to the last card. Says how many cards of each kind there were, and which steps were read. */
export async function walk(page, url, { press = (locator) => locator.click(), alone = false, place = "point of work", neutral = false, ze = "0.17", typed = () => undefined } = {}) {
  const seen = { cards: {}, steps: [], aloneFirst: false };
  const settled = () => page.waitForFunction(() => document.getElementById("run")?.dataset.seen === undefined && !document.querySelector(".htmx-settling, .htmx-swapping"));
  await page.goto(url);
  for (let turn = 0; turn < 400; turn += 1) {
    const card = page.locator(".run-card").first();
    const kind = (await card.getAttribute("class")).replace("run-card", "").trim();
    seen.cards[kind] = (seen.cards[kind] ?? 0) + 1;
    if (kind === "finished") return seen;
    await page.evaluate(() => { document.getElementById("run").dataset.seen = "yes"; });
    if (kind === "today") {
      await card.locator("[name=by]").fill("Odile Wren");
      await press(page.getByRole("button", { name: "Everything is in order" }));
    } else if (kind === "ask") {
      if (await page.locator("#celsius").count()) {
        await page.locator("#celsius").fill("18");
        await press(page.getByRole("button", { name: "That warm" }));
      } else await press(page.getByRole("button", { name: "No", exact: true }));
    } else if (kind === "prove") {
      const only = page.getByRole("link", { name: /^Only / });
      const offered = alone && !seen.alone && (await only.count());
      await press(offered ? only : page.getByRole("link", { name: "Isolate and prove" }));
      if (await proves(page, press, { place, neutral })) seen.alone = true;
      continue;
    } else if (kind === "in-use") {
      await card.locator("[name=by]").fill("Odile Wren");
      await press(page.getByRole("button", { name: "It is energised and in use" }));
      await page.waitForURL(/run/);
      continue;
    } else if (["make", "undo", "change", "null"].includes(kind)) {
      await card.locator("[name=by]").fill("Odile Wren");
      await press(page.locator(".run-do .primary").first());
    } else if (kind === "end") {
      await card.locator("[name=by]").fill("Odile Wren");
      await press(page.locator(".run-card.end .primary"));
    } else if (kind === "settle") {
      assert.match(await card.innerText(), /schedule of inspections/, await card.innerText());
      await press(card.locator("a").first());
      await press(page.getByRole("button", { name: /yes to all left open/ }));
      await page.waitForURL((to) => !/inspection/.test(to.pathname));
      await page.goto(url);
      continue;
    } else if (kind === "ze-next") {
      await press(page.getByRole("link", { name: "Read Ze" }));
      await spokenTo(page);
      await press(page.getByRole("button", { name: /expose the supply/ }));
      await page.locator(".ze-line input.typed").first().waitFor();
      for (const line of await page.locator(".ze-line input.typed").all()) await line.fill(ze);
      await page.getByRole("checkbox", { name: /refitted/ }).check();
      await press(page.getByRole("button", { name: /File the figures/ }));
      await page.waitForURL(/run/);
      continue;
    } else if (kind === "power") {
      await page.getByRole("checkbox", { name: /Covers are/ }).check();
      await card.locator("[name=by]").fill("Odile Wren");
      await spokenTo(page);
      await press(page.locator(".run-card.power .primary"));
    } else {
      assert.equal(kind, "read", kind);
      const step = await page.locator("#entry input[name=step]").inputValue();
      const by = page.locator("#entered_by");
      if (!(await by.inputValue())) await by.fill("Odile Wren");
      const text = await card.innerText();
      const figure = typed(text, step) ?? sound(text, step, (await page.getByRole("button", { name: "Pass" }).count()) > 0);
      if (figure === null) await press(page.getByRole("button", { name: "Pass" }));
      else {
        await page.locator("#typed").fill(figure);
        await page.locator("#typed").press("Enter");
      }
      seen.steps.push(step);
    }
    await settled();
  }
  assert.fail(`the walk does not end: ${JSON.stringify(seen.cards)}`);
}
