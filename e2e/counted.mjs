// The run by keyboard, every key counted: each card answered by what is on it, each reading typed as an
// instrument would show it where nothing is wrong.
import assert from "node:assert/strict";

/** What is read where nothing is wrong, in the fewest keys that a person would take for it. */
export function sound(text, step, outcome, points = 1) {
  if (outcome) return "p";
  const thrown = /-t-([\d-]+)$/.exec(step);
  // A two-way switch thrown opens, two close again (common practice, no source).
  if (thrown && thrown[1].split("-").length % 2) return "ol";
  if (/-open$/.test(step)) return "ol";
  if (/ir-|-joined/.test(step)) return ">";
  if (/^rcd-/.test(step)) return "24";
  const band = /expect\s+([\d.]+)–([\d.]+) (Ω|kA)/.exec(text);
  if (band) {
    const [low, high] = [Number(band[1]), Number(band[2])];
    const point = Number(/-p(\d+)$/.exec(step)?.[1] ?? 0);
    // Along a radial each point reads more than the one before it, the last the whole cable.
    const read = point && low < high / 3 ? Math.max(low, (high * 0.93 * point) / points) : (low + high) / 2;
    return read.toFixed(2).replace(/^0/, "");
  }
  if (/^(earthing|bond-)/.test(step)) return ".02";
  if (/^pfc/.test(step)) return "1.2";
  if (/^(zs|loop|zdb)/.test(step)) return ".4";
  return ".4";
}

/** Isolates and proves by keyboard, a board or one way alone at a place; what the browser remembers is not typed again. */
async function proves(me, place = "") {
  const { page } = me;
  await page.waitForURL(/isolate/);
  await page.waitForFunction((first) => document.activeElement?.name === first, place ? "locked" : "loads");
  const ticks = async (name) => {
    if (!(await page.locator(`input[type=checkbox][name=${name}]`).count())) return;
    await me.key("Space");
    await me.key("Tab");
  };
  const types = async (name, text) => {
    if (!(await page.locator(`[name=${name}]`).count())) return;
    if (!(await page.locator(`[name=${name}]`).inputValue())) await me.type(text);
    await me.key("Tab");
  };
  for (const name of ["loads", "locked", "neutral"]) await ticks(name);
  await types("lock", place ? "padlock 2, with me" : "padlock 2, key with me");
  await types("place", place);
  await types("indicator", "VI-1");
  await ticks("before");
  for (const _ of await page.locator("input[data-dead]").all()) {
    await me.type("0");
    await me.key("Enter");
  }
  await me.key("Space");
  await me.turn("Enter");
  await page.waitForURL(/run/);
}

/** Walks the run by keyboard from wherever the page is. Says the kinds of cards and the steps read. */
export async function walkByKeys(me, url, { read = sound, until = () => false, alone = "" } = {}) {
  const { page } = me;
  const seen = { cards: {}, steps: [] };
  const { job } = await (await fetch(`${url.replace(/\/run.*|#.*/, "")}/job.json`)).json();
  const points = Object.fromEntries(job.installation.circuits.map((one) => [one.id, one.points.length]));
  const settled = () => page.waitForFunction(() => document.getElementById("run")?.dataset.seen === undefined && !document.querySelector(".htmx-settling, .htmx-swapping, .htmx-request"));
  if (!page.url().endsWith("/run")) await page.goto(url);
  for (let turn = 0; turn < 500; turn += 1) {
    const card = page.locator(".run-card").first();
    const kind = (await card.getAttribute("class")).replace("run-card", "").trim();
    seen.cards[kind] = (seen.cards[kind] ?? 0) + 1;
    if (kind === "finished" || until(seen, kind)) return seen;
    await page.evaluate(() => { document.getElementById("run").dataset.seen = "yes"; });
    if (kind === "ask" && (await page.locator("#celsius").count())) {
      await me.type("18");
      await me.key("Enter");
    } else if (["today", "ask", "make", "undo", "change", "null", "end"].includes(kind)) {
      await me.key("d");
    } else if (kind === "in-use") {
      await me.turn("d");
      continue;
    } else if (kind === "prove" && alone && (await page.getByRole("link", { name: /^Only / }).count())) {
      await me.follow(page.getByRole("link", { name: /^Only / }));
      await proves(me, alone);
      continue;
    } else if (kind === "prove") {
      await me.key("d");
      await proves(me);
      continue;
    } else if (kind === "settle") {
      assert.match(await card.innerText(), /schedule of inspections/i, await card.innerText());
      await me.turn("d");
      await me.follow(page.getByRole("button", { name: /yes to all left open/ }));
      if (!/\/run/.test(page.url())) await me.follow(page.getByRole("link", { name: "Run", exact: true }));
      continue;
    } else if (kind === "ze-next") {
      await me.turn("d");
      await me.follow(page.getByRole("button", { name: /expose the supply/ }));
      for (const _ of await page.locator(".ze-line input.typed").all()) {
        await me.type(".17");
        await me.key("Enter");
      }
      await me.key("Space");
      await me.turn("Enter");
      await page.waitForURL(/run/);
      continue;
    } else if (kind === "power") {
      await page.waitForFunction(() => document.activeElement?.name === "covers");
      await me.key("Space");
      await me.key("d");
    } else {
      assert.equal(kind, "read", kind);
      const step = await page.locator("#entry input[name=step]").inputValue();
      const outcome = (await page.getByRole("button", { name: "Pass" }).count()) > 0;
      if (!outcome) await page.waitForFunction(() => document.activeElement?.id === "typed");
      const figure = read(await card.innerText(), step, outcome, points[await page.locator("#entry input[name=of]").inputValue()]);
      await me.type(figure);
      if (process.env.TRACE) console.log(step, figure, JSON.stringify((await card.innerText()).split('\n').slice(0,2)));
      // Right or wrong is one key.
      if (!outcome) await me.key("Enter");
      seen.steps.push(step);
    }
    await settled();
  }
  assert.fail(`the walk does not end: ${JSON.stringify(seen.cards)}`);
}
