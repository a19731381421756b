// Improves pages that work without it: client-made ids, drafts kept through a reload or a lost
// connection, keys, the eye kept on the field in hand.
(() => {
  "use strict";
  const entry = () => document.getElementById("entry");
  const typed = () => document.getElementById("typed");
  const draftKey = (form) => "draft:" + form.dataset.draft;

  // By attribute: the form holds a field named id, which hides the property.
  const isEntry = (node) => Boolean(node && node.getAttribute && node.getAttribute("id") === "entry");

  const newId = () => crypto.randomUUID();

  // The outcome buttons of the card at hand, where nothing was typed or refused.
  const outcome = (value) => document.querySelector(`#run #entry button[name=outcome][value=${value}]`);
  const oneKey = () => Boolean(outcome("pass")) && typed().value === "" && typed().getAttribute("aria-invalid") !== "true";

  // A reading's id is made here; the same form sent again keeps it.
  function prepare() {
    const form = entry();
    if (!form) return;
    const id = form.elements.namedItem("id");
    const field = typed();
    // Another part of the page may settle later: the eye is led once, when the entry comes.
    const comes = !form.dataset.ready;
    if (comes) {
      form.dataset.ready = "yes";
      let kept = null;
      try { kept = JSON.parse(localStorage.getItem(draftKey(form)) || "null"); } catch { kept = null; }
      const refused = field.getAttribute("aria-invalid") === "true";
      if (kept && field.value === "" && !refused) {
        field.value = kept.typed;
        id.value = kept.id;
      } else {
        id.value = newId();
      }
      field.addEventListener("input", () => keep(form));
    }
    // Whoever types faster than the page settles must lose no digit: a field in use is left alone. In the run,
    // right or wrong is one key, p or f: the field waits for what is more than that.
    if (comes && oneKey()) field.blur();
    else if (comes && document.activeElement !== field) field.focus({ preventScroll: true });
    if (comes && field.value !== "" && field.value === field.defaultValue) field.select();
  }

  function keep(form) {
    try {
      if (typed().value === "") localStorage.removeItem(draftKey(form));
      else localStorage.setItem(draftKey(form), JSON.stringify({ typed: typed().value, id: form.elements.namedItem("id").value }));
    } catch { /* storage may be off: the field itself still holds it */ }
  }

  function lost(show) {
    const note = document.getElementById("lost");
    if (note) note.hidden = !show;
  }

  document.addEventListener("htmx:beforeRequest", (event) => { if (isEntry(event.target)) lost(false); });
  document.addEventListener("htmx:sendError", (event) => { if (isEntry(event.target)) { keep(event.target); lost(true); } });
  document.addEventListener("htmx:responseError", (event) => { if (isEntry(event.target)) { keep(event.target); lost(true); } });
  document.addEventListener("htmx:beforeSwap", (event) => {
    // Stored: the draft has done its work. Refused: it stays, under a new id.
    const from = event.detail.requestConfig && event.detail.requestConfig.elt;
    if (isEntry(from) && event.detail.xhr.status === 200) {
      try { localStorage.removeItem(draftKey(from)); } catch { /* nothing was kept */ }
    }
  });
  document.addEventListener("htmx:afterSettle", prepare);
  document.addEventListener("DOMContentLoaded", prepare);

  // A circuit in a line: whoever writes the next one while the last is on its way loses no letter.
  const isLine = (event) => event.target.closest && event.target.closest("#new-circuit") && document.getElementById("line");
  let ahead = "";
  document.addEventListener("htmx:beforeSend", (event) => { const line = isLine(event); if (line) { line.dataset.sent = line.value; line.value = ""; } });
  document.addEventListener("htmx:beforeSwap", () => { const line = document.getElementById("line"); ahead = line && line.dataset.sent !== undefined ? line.value : ""; });
  document.addEventListener("htmx:afterSwap", () => { const line = document.getElementById("line"); if (ahead && line && line.value === "") line.value = ahead; ahead = ""; });
  for (const lost of ["htmx:sendError", "htmx:responseError"]) document.addEventListener(lost, (event) => { const line = isLine(event); if (line && line.value === "") line.value = line.dataset.sent; });

  // What else is sent carries an id as well. Sent again as it was, it is the same deed; altered after it
  // was sent, or come back to by the back key, it is another.
  const said = (form) => new URLSearchParams([...new FormData(form)].filter(([name, value]) => name !== "sent" && typeof value === "string")).toString();
  document.addEventListener("submit", (event) => {
    const id = event.target.elements && event.target.elements.namedItem("sent");
    if (!id || event.defaultPrevented) return;
    const now = said(event.target);
    if (event.target.dataset.said !== undefined && event.target.dataset.said !== now) id.value = newId();
    event.target.dataset.said = now;
  });
  window.addEventListener("pageshow", (event) => {
    if (!event.persisted) return;
    for (const id of document.querySelectorAll("input[name=sent]")) id.value = newId();
  });

  // The run and Ze: our own pad, so that one thumb reaches every digit; the phone's keyboard stays down.
  function pad() {
    const keys = document.querySelector(".pad");
    const fields = keys ? [...keys.closest("form").querySelectorAll("input.typed")] : [];
    if (!fields.length || keys.dataset.ready || !matchMedia("(pointer: coarse)").matches) return;
    keys.dataset.ready = "yes";
    keys.hidden = false;
    for (const field of fields) field.setAttribute("inputmode", "none");
    let at = Math.max(0, fields.indexOf(document.activeElement));
    for (const [index, field] of fields.entries()) field.addEventListener("focus", () => { at = index; });
    keys.addEventListener("click", (event) => {
      const button = event.target.closest("button[data-key], button[data-word], button[data-next]");
      if (!button) return;
      if (button.dataset.next) {
        at = (at + 1) % fields.length;
        fields[at].focus();
        return;
      }
      const field = fields[at];
      if (button.dataset.key === "⌫") field.value = field.value.slice(0, -1);
      else if (button.dataset.key) field.value += button.dataset.key;
      else if (button.dataset.word === ">") field.value = ">" + field.value.replace(/^>/, "");
      else field.value = button.dataset.word;
      field.dispatchEvent(new Event("input", { bubbles: true }));
    });
  }

  // The verdict, heard or felt, where the house rule wants it: eyes are on the tips.
  let told = "", sound = null;
  const patterns = { within: [1, 880, 120], again: [2, 560, 160], outside: [3, 240, 260] };
  function tell() {
    const run = document.getElementById("run");
    const verdict = run && run.querySelector("[data-verdict]");
    if (!verdict || verdict.dataset.verdict === told) return;
    told = verdict.dataset.verdict;
    const [times, hertz, ms] = patterns[verdict.dataset.look] || patterns.within;
    run.dataset.told = `${run.dataset.sign} ${times}`;
    if (run.dataset.sign === "felt" && navigator.vibrate) {
      navigator.vibrate(Array.from({ length: times * 2 - 1 }, (_, at) => (at % 2 ? 90 : ms)));
    } else if (run.dataset.sign === "heard" && window.AudioContext) {
      sound = sound || new AudioContext();
      for (let at = 0; at < times; at += 1) {
        const tone = sound.createOscillator(), level = sound.createGain(), from = sound.currentTime + at * (ms + 90) / 1000;
        tone.frequency.value = hertz;
        level.gain.value = 0.2;
        tone.connect(level).connect(sound.destination);
        tone.start(from);
        tone.stop(from + ms / 1000);
      }
    }
  }

  // The screen stays awake while a run is open.
  async function awake() {
    if (!document.getElementById("run") || !navigator.wakeLock || document.visibilityState !== "visible") return;
    try { await navigator.wakeLock.request("screen"); } catch { /* the battery decides */ }
  }

  // One tap for a pair without indication.
  function deadPairs() {
    for (const field of document.querySelectorAll("input[data-dead]")) {
      if (field.nextElementSibling && field.nextElementSibling.matches("button")) continue;
      const button = document.createElement("button");
      button.type = "button";
      button.textContent = "0";
      button.setAttribute("aria-label", "no indication: 0 V");
      // Beside the field for the thumb; the keyboard types it.
      button.tabIndex = -1;
      button.addEventListener("click", () => { field.value = "0"; });
      field.after(button);
      field.addEventListener("keydown", (event) => {
        // Enter goes to the next pair, and then to the indicator proved again.
        if (event.key !== "Enter") return;
        event.preventDefault();
        const all = [...document.querySelectorAll("input[data-dead]")];
        (all[all.indexOf(field) + 1] || field.form.querySelector("input[name=after]")).focus();
      });
    }
  }

  // Ze: how long the earth has been off, and the highest of the lines, beside the figures held.
  function whileExposed() {
    const timer = document.querySelector(".earth-timer[data-since]");
    if (timer && !timer.dataset.ready) {
      timer.dataset.ready = "yes";
      const from = Date.now() - Number(timer.dataset.since) * 1000, shown = document.getElementById("earth-off");
      setInterval(() => {
        const seconds = Math.round((Date.now() - from) / 1000);
        shown.textContent = `${Math.floor(seconds / 60)} min ${seconds % 60} s`;
      }, 1000);
    }
    const all = () => [...document.querySelectorAll("input[data-highest]")];
    const form = all().length ? all()[0].form : null;
    if (!form) return;
    const highest = document.getElementById(all()[0].dataset.highest);
    const show = () => {
      // What an instrument sent may stand in thousandths.
      const ohms = ([, figure, milli]) => Number(figure.replace(",", ".")) / (milli ? 1000 : 1);
      const read = all().map((field) => /^\s*([\d.,]+)\s*(m?)Ω?\s*$/.exec(field.value)).filter(Boolean).map(ohms).filter((ohm) => ohm > 0);
      if (highest) highest.textContent = read.length ? `${Math.max(...read)} Ω` : "—";
    };
    show();
    if (form.dataset.ready) return;
    form.dataset.ready = "yes";
    const key = draftKey(form);
    let kept = {};
    try { kept = JSON.parse(localStorage.getItem(key) || "{}"); } catch { kept = {}; }
    for (const field of all()) if (kept[field.name] !== undefined && !field.hasAttribute("aria-invalid")) field.value = kept[field.name];
    form.addEventListener("input", (event) => {
      if (!event.target.matches("[data-highest]")) return;
      kept[event.target.name] = event.target.value;
      try { localStorage.setItem(key, JSON.stringify(kept)); } catch { /* the field holds it */ }
      show();
    });
    // A figure of an instrument takes the place of what was kept.
    form.addEventListener("htmx:oobAfterSwap", (event) => {
      const field = event.target.querySelector?.("[data-highest]");
      if (field) delete kept[field.name];
      show();
    });
    form.addEventListener("keydown", (event) => {
      // Enter goes to the next line, never past the earth.
      if (event.key !== "Enter" || !event.target.matches("[data-highest]")) return;
      event.preventDefault();
      (all()[all().indexOf(event.target) + 1] || form.querySelector("input[name=refitted]")).focus();
    });
    form.addEventListener("submit", () => { try { localStorage.removeItem(key); } catch { /* nothing was kept */ } });
    show();
  }

  // A signature drawn with finger or pen; the typed name is a signature without it.
  function signatures() {
    for (const field of document.querySelectorAll("input[data-signature]")) {
      if (field.dataset.ready) continue;
      field.dataset.ready = "yes";
      const [width, height] = field.dataset.signature.split("x").map(Number);
      const canvas = document.createElement("canvas"), again = document.createElement("button");
      Object.assign(canvas, { className: "signature-pad", width, height });
      canvas.setAttribute("role", "img");
      canvas.setAttribute("aria-label", field.dataset.label);
      Object.assign(again, { type: "button", textContent: "clear" });
      again.setAttribute("aria-label", `clear: ${field.dataset.label}`);
      field.after(canvas, again);
      const pen = canvas.getContext("2d");
      let strokes = field.value ? field.value.split(";").map((one) => one.split(" ").map((at) => at.split(",").map(Number))) : [];
      const draw = () => {
        pen.clearRect(0, 0, width, height);
        pen.strokeStyle = getComputedStyle(canvas).color;
        pen.lineWidth = 4;
        for (const stroke of strokes) {
          pen.beginPath();
          stroke.forEach(([x, y], at) => (at ? pen.lineTo(x, y) : pen.moveTo(x, y)));
          pen.stroke();
        }
        field.value = strokes.filter((one) => one.length > 1).map((one) => one.map((at) => at.join(",")).join(" ")).join(";");
      };
      const at = (event) => {
        const box = canvas.getBoundingClientRect();
        const within = (value, most) => Math.max(0, Math.min(most, Math.round(value)));
        return [within((event.clientX - box.left) / box.width * width, width), within((event.clientY - box.top) / box.height * height, height)];
      };
      canvas.addEventListener("pointerdown", (event) => { canvas.setPointerCapture(event.pointerId); strokes.push([at(event)]); });
      canvas.addEventListener("pointermove", (event) => {
        if (event.buttons !== 1 || !strokes.length) return;
        const points = strokes.reduce((sum, one) => sum + one.length, 0);
        if (points < 2900) { strokes[strokes.length - 1].push(at(event)); draw(); }
      });
      again.addEventListener("click", () => { strokes = []; draw(); });
      draw();
    }
  }

  // The schedule sheet: cell to cell by Enter and the arrows; a pasted block falls into the cells.
  function grid(table) {
    if (table.dataset.ready) return;
    table.dataset.ready = "yes";
    const at = (row, column) => row && row.cells[column] && row.cells[column].querySelector("input");
    const beside = (field, rows, columns) => {
      const cell = field.closest("td"), row = cell.parentElement;
      let line = row, column = cell.cellIndex;
      for (;;) {
        if (rows) line = rows > 0 ? line.nextElementSibling : line.previousElementSibling;
        column += columns;
        if (!line || column < 0 || column >= line.cells.length) return null;
        if (at(line, column)) return at(line, column);
      }
    };
    // From the foot of a column to the head of the next.
    const top = (field) => {
      const rows = [...table.tBodies[0].rows];
      for (let column = field.closest("td").cellIndex + 1; column < rows[0].cells.length; column += 1) {
        const row = rows.find((one) => at(one, column));
        if (row) return at(row, column);
      }
      return null;
    };
    table.addEventListener("keydown", (event) => {
      if (!event.target.matches("input") || event.altKey || event.ctrlKey) return;
      const field = event.target, all = field.selectionStart === 0 && field.selectionEnd === field.value.length;
      const start = field.selectionEnd === 0, end = field.selectionStart === field.value.length;
      let next;
      if (event.key === "Enter") next = beside(field, event.shiftKey ? -1 : 1, 0) || (event.shiftKey ? null : top(field));
      else if (event.key === "ArrowDown") next = beside(field, 1, 0);
      else if (event.key === "ArrowUp") next = beside(field, -1, 0);
      else if (event.key === "ArrowLeft" && (start || all)) next = beside(field, 0, -1);
      else if (event.key === "ArrowRight" && (end || all)) next = beside(field, 0, 1);
      else return;
      event.preventDefault();
      if (next) { next.focus(); next.select(); }
    });
    table.addEventListener("paste", (event) => {
      const text = event.clipboardData.getData("text");
      if (!/[\t\n]/.test(text.trim()) || !event.target.matches("input")) return;
      event.preventDefault();
      const from = event.target.closest("td"), rows = [...table.tBodies[0].rows];
      const first = rows.indexOf(from.parentElement);
      text.replace(/\r/g, "").split("\n").forEach((line, down) => line.split("\t").forEach((value, across) => {
        const field = at(rows[first + down], from.cellIndex + across);
        if (field && value.trim() !== "") field.value = value.trim();
      }));
    });
  }

  // Isolating on a phone: one step at a time, each whole on the screen. What was refused is shown whole.
  function stepwise() {
    const list = document.querySelector(".isolating");
    if (!list || list.dataset.ready || !matchMedia("(max-width: 44rem)").matches || document.querySelector(".isolate .error, .not-isolated")) return;
    list.dataset.ready = "yes";
    const steps = [...list.children], end = document.querySelector(".isolate .form-end");
    const show = (at) => {
      steps.forEach((step, index) => step.classList.toggle("here", index === at));
      end.classList.toggle("later", at < steps.length - 1);
      window.scrollTo(0, 0);
    };
    steps.forEach((step, at) => {
      step.querySelector("h2").dataset.step = `${at + 1} of ${steps.length}`;
      const row = document.createElement("p");
      row.className = "run-actions thumb";
      for (const [name, to] of [["Back", at - 1], ["Next", at + 1]]) {
        if (!steps[to]) continue;
        const button = document.createElement("button");
        Object.assign(button, { type: "button", textContent: name, className: name === "Next" ? "primary" : "" });
        button.addEventListener("click", () => show(to));
        row.append(button);
      }
      step.append(row);
    });
    list.classList.add("stepwise");
    end.classList.add("thumb");
    show(0);
  }

  // What went well is said once, where the page that follows begins.
  const DONE = {
    particulars: "The particulars are stored.", board: "The board is stored.", circuit: "The circuit is stored.", inspection: "The inspection is stored.",
    firm: "The firm is stored.", rules: "The house rules are stored.", person: "The person is added.", instrument: "The instrument is added.",
    pattern: "The pattern is kept: a new job may begin from it.", begun: "Boards and circuits are stored.", judged: "The judgement is written down.",
    withdrawn: "Withdrawn: gone from plan, schedule and papers, kept in the file.", sheet: "The readings are stored.", log: "The readings of the log are stored.",
  };
  function done() {
    const here = new URL(location.href), said = DONE[here.searchParams.get("done")], note = document.getElementById("done");
    if (!said || !note) return;
    note.textContent = said;
    note.hidden = false;
    here.searchParams.delete("done");
    history.replaceState(history.state, "", here);
  }

  // A link that leads into something folded opens it.
  function unfold() {
    const target = location.hash.length > 1 && document.getElementById(decodeURIComponent(location.hash.slice(1)));
    if (!target) return;
    for (let at = target; at; at = at.parentElement) if (at.tagName === "DETAILS") at.open = true;
    if (target.matches("input, select, textarea")) target.focus();
  }

  // Where a form is all that a page is for, the eye begins at its first empty field.
  function firstField() {
    const form = document.querySelector("form[data-first]");
    if (!form || !matchMedia("(pointer: fine)").matches || document.querySelector("[autofocus], [aria-invalid=true]")) return;
    const empty = [...form.querySelectorAll("input:not([type=hidden]):not([type=checkbox])")].find((field) => field.value === "");
    if (empty) empty.focus({ preventScroll: true });
  }

  // On a narrow screen the stage at hand is in sight among the stages.
  const here = () => {
    const stage = document.querySelector(".index [aria-current]"), index = stage && stage.parentElement;
    if (index && index.scrollWidth > index.clientWidth) index.scrollLeft = stage.offsetLeft - (index.clientWidth - stage.offsetWidth) / 2;
  };
  const onSheet = () => { here(); pad(); stepwise(); tell(); deadPairs(); whileExposed(); signatures(); document.querySelectorAll("table[data-grid]").forEach(grid); };
  document.addEventListener("htmx:afterSettle", onSheet);
  document.addEventListener("DOMContentLoaded", () => { onSheet(); done(); firstField(); unfold(); awake(); });
  document.addEventListener("visibilitychange", awake);

  // Boxes take no letters: keys work on them.
  const inField = (target) => target.closest && target.closest("input:not([type=checkbox]):not([type=radio]), textarea, select");
  // What the card at hand says is done: its first button, or its link where it has none.
  const doneHere = () => document.querySelector(".run-card .run-do .primary, .run-card.today .primary, .run-card.ask .primary") || document.querySelector(".run-card a.primary");
  // The keys of the page at hand.
  const keysHere = () => {
    for (const row of document.querySelectorAll("#keys [data-on]")) row.hidden = !document.querySelector(row.dataset.on);
    document.getElementById("keys").showModal();
  };
  // Whoever types the whole word, pass or fail and Enter, has been understood at its first letter.
  let rest = [];
  document.addEventListener("keydown", (event) => {
    const more = rest.length > 0 && event.key === rest[0];
    rest = more ? rest.slice(1) : [];
    if (more) event.preventDefault();
  }, true);
  document.addEventListener("keydown", (event) => {
    if (event.defaultPrevented) return;
    if (event.altKey && (event.key === "ArrowDown" || event.key === "ArrowUp")) {
      const link = document.getElementById(event.key === "ArrowDown" ? "step-on" : "step-back");
      if (link) { event.preventDefault(); link.click(); }
      return;
    }
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    if (inField(event.target)) {
      if (event.key === "?" && event.target === typed()) { event.preventDefault(); keysHere(); }
      return;
    }
    switch (event.key) {
      case "?": keysHere(); break;
      case "/": {
        const field = typed() || document.getElementById("q") || document.getElementById("line");
        if (field) { event.preventDefault(); field.focus(); }
        break;
      }
      case "p": case "f": {
        const button = event.repeat ? null : outcome(event.key === "p" ? "pass" : "fail");
        if (button) { rest = [...(event.key === "p" ? "ass" : "ail"), "Enter"]; button.click(); }
        break;
      }
      case "u": { const box = document.getElementById("unsteady"); if (box) box.checked = !box.checked; break; }
      case "d": { const done = doneHere(); if (done && !event.repeat) done.click(); break; }
      case "w": { const working = document.getElementById("working"); if (working) working.open = !working.open; break; }
      default: return;
    }
  });
})();
