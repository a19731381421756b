// Somebody at the program: every key, click and page is counted. Nothing is filled in but by them.

/** A person on a page; `counts` holds what they did, by the stretch of work that they are in. */
export class Person {
  constructor(page) {
    this.page = page;
    this.stretch = "setup";
    this.counts = {};
    page.on("framenavigated", (frame) => {
      // A place on the page at hand is no page.
      const [to] = frame.url().split("#");
      if (frame === page.mainFrame() && to !== "about:blank" && !(to === this.at && frame.url().includes("#"))) this.count.loads += 1;
      this.at = to;
    });
  }

  get count() {
    return (this.counts[this.stretch] ??= { keys: 0, clicks: 0, loads: 0 });
  }

  /** Types; each character is a key. */
  async type(text) {
    this.count.keys += [...text].length;
    await this.page.keyboard.type(text);
  }

  /** Presses one key. */
  async key(name, times = 1) {
    for (let time = 0; time < times; time += 1) {
      this.count.keys += 1;
      await this.page.keyboard.press(name);
    }
  }

  /** Clicks, or taps. */
  async click(locator) {
    this.count.clicks += 1;
    await locator.click();
  }

  /** The same where another page follows. */
  async follow(locator) {
    const [, answered] = [await locator.waitFor(), this.page.waitForNavigation()];
    await this.click(locator);
    await answered;
  }

  /** Presses a key and waits for the page that follows. */
  async turn(name) {
    const answered = this.page.waitForNavigation();
    await this.key(name);
    await answered;
  }

  /** Fills fields one after the other, Tab between them. */
  async fields(...texts) {
    for (const [at, text] of texts.entries()) {
      if (at) await this.key("Tab");
      if (text) await this.type(text);
    }
  }

  /** Down a column of a table: each figure and Enter. */
  async column(...texts) {
    for (const text of texts) {
      if (text) await this.type(text);
      await this.key("Enter");
    }
  }

  get all() {
    const sum = { keys: 0, clicks: 0, loads: 0 };
    for (const one of Object.values(this.counts)) for (const name of Object.keys(sum)) sum[name] += one[name];
    return sum;
  }
}
