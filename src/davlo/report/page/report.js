"use strict";
// The report's program. Every text goes into the page as a text node: nothing of the data is ever read as HTML.

const data = JSON.parse(document.getElementById("data").textContent);
const pages = data.pages;
const total = pages.path.length;
const MOST_ROWS = 60;
const MORE_ROWS = 500;
const MOST_FINDINGS = 50;
const MOST_LISTED = 40;

// ---- small words ----

function element(tag, attributes, ...children) {
  const made = document.createElement(tag);
  for (const [name, value] of Object.entries(attributes || {})) {
    if (value === null || value === undefined || value === false) continue;
    if (name.startsWith("on")) made.addEventListener(name.slice(2), value);
    else made.setAttribute(name, value === true ? "" : value);
  }
  add(made, ...children);
  return made;
}

function add(parent, ...children) {
  for (const child of children.flat(Infinity)) {
    if (child !== null && child !== undefined && child !== false) parent.append(child);
  }
}

function count(number, word, plural) {
  return `${number.toLocaleString("en")} ${number === 1 ? word : plural || word + "s"}`;
}

function runsOut(runs) {
  const codes = new Int32Array(total);
  let at = 0;
  for (let i = 0; i < runs.length; i += 2) {
    codes.fill(runs[i], at, at + runs[i + 1]);
    at += runs[i + 1];
  }
  return codes;
}

const known = new Map();
function codesOf(column, key = "runs") {
  // the codes of a column, written out when they are first asked for
  if (!known.has(column)) known.set(column, {});
  const made = known.get(column);
  if (!made[key]) made[key] = runsOut(column[key]);
  return made[key];
}

const wordOf = (column, page) => column.words[codesOf(column)[page]] || "";
const settings = new Map(data.settings.map((one) => [one.name, one]));
const has = (setting, page) => codesOf(setting)[page] >= 0;
const valueOf = (setting, page) => (has(setting, page) ? setting.values[codesOf(setting)[page]] : "");
const isOwn = (setting, page) => codesOf(setting, "own")[page] === 1;
const isException = (setting, page) => codesOf(setting, "exceptions")[page] === 1;
const whyNotShown = (setting, page) => (setting.not_shown.runs.length ? wordOf(setting.not_shown, page) : "");
const sourceOf = (setting, page) => (setting.by ? setting.sources[codesOf(setting, "by")[page]] : null);

const children = Array.from({ length: total }, () => []);
const roots = [];
pages.parent.forEach((above, page) => (above >= 0 ? children[above] : roots).push(page));
const depth = new Int32Array(total);
for (let page = 0; page < total; page++) depth[page] = pages.parent[page] >= 0 ? depth[pages.parent[page]] + 1 : 0;
const otherAddress = new Map(Object.entries(pages.address || {}));
const publicAddress = (page) => otherAddress.get(String(page)) ?? `${data.site.url}${pages.path[page]}`;
const pageSearch = new Search(
  pages.path.map((path, page) => `${path}\n${pages.title[page]}\n${publicAddress(page)}`),
  data.settings.map((one) => ({ codes: () => codesOf(one), words: one.values })));

function pageLink(page) {
  return element("a", { href: `#page=${encodeURIComponent(pages.path[page])}`, class: "path" }, pages.path[page]);
}

function pageList(some) {
  const shown = some.slice(0, MOST_LISTED).map((page) => element("li", {}, pageLink(page), " ", pages.title[page]));
  const list = element("ul", { class: "pages" }, shown);
  if (some.length > MOST_LISTED) {
    const rest = element("li", {});
    rest.append(
      element("button", { type: "button", onclick: () => {
        rest.replaceWith(...some.slice(MOST_LISTED).map((page) => element("li", {}, pageLink(page), " ", pages.title[page])));
      } }, `Show ${count(some.length - MOST_LISTED, "more page")}`)
    );
    list.append(rest);
  }
  return list;
}

function option(value, text, chosen) {
  return element("option", { value, selected: value === chosen }, text === undefined ? value : text);
}

function labelled(text, control) {
  return element("label", {}, element("span", {}, text), control);
}

function copyButton(text, what, label) {
  // a button that copies a text, or what a function gives
  const button = element("button", { type: "button", class: "copy", "aria-label": label || null, onclick: async () => {
    const said = typeof text === "function" ? text() : text;
    try {
      await navigator.clipboard.writeText(said);
    } catch {
      const area = element("textarea", {}, said);
      document.body.append(area);
      area.select();
      document.execCommand("copy");
      area.remove();
    }
    button.textContent = "Copied";
    setTimeout(() => { button.textContent = what; }, 1500);
  } }, what);
  return button;
}

function csvOf(rows) {
  // no cell is a formula for a spreadsheet program
  const cellOf = (text) => {
    const safe = /^[=+\-@\t\r]/.test(text) ? `'${text}` : text;
    return /[",\r\n]/.test(safe) ? `"${safe.replaceAll('"', '""')}"` : safe;
  };
  return rows.map((row) => row.map(cellOf).join(",") + "\n").join("");
}

function textsOf(table) {
  const told = (cell) => {
    const copied = cell.cloneNode(true);
    copied.querySelectorAll(".copy, details").forEach((one) => one.remove());  // what is there to be pressed
    return copied.textContent.replace(/\s+/g, " ").trim();
  };
  return [...table.rows].map((row) => [...row.cells].map(told));
}

function tableOf(caption, header, rows, texts) {
  // texts: gives all its rows as texts, where not all are drawn
  const table = element("table", {}, element("caption", {}, caption),
    element("thead", {}, element("tr", {}, header.map((one) => one instanceof Element ? one : element("th", { scope: "col" }, one)))),
    element("tbody", {}, rows));
  return [element("div", { class: "scroll", tabindex: "0", role: "region", "aria-label": caption }, table),
    copyButton(() => csvOf(texts ? texts() : textsOf(table)), "Copy as CSV")];
}

// ---- the tree ----

const FIRST_COLUMNS = ["layout.name", "sidebar.right", "menu.show", "sitemap.priority"].filter((name) => settings.has(name));
const USUAL_COLUMNS = FIRST_COLUMNS.length ? FIRST_COLUMNS : [...settings.keys()].slice(0, 3);
const view = {
  columns: USUAL_COLUMNS, search: "", type: "", setting: "", value: "", mark: "", finding: "", sort: "", down: "",
  open: new Set(roots), most: MOST_ROWS, takenFor: [],
};
const KEPT = ["search", "type", "setting", "value", "mark", "finding", "sort", "down"];

function loadView(kept) {
  // what the address says; an address that says nothing leaves the filters as they were
  if (![...kept.keys()].length) return;
  for (const name of KEPT) view[name] = kept.get(name) || "";
  const columns = (kept.get("columns") || "").split(",").filter((name) => settings.has(name));
  view.columns = columns.length ? columns : USUAL_COLUMNS;
  view.most = MOST_ROWS;
}

function keepView() {
  const columns = view.columns.join() === USUAL_COLUMNS.join() ? "" : view.columns.join();
  keep("tree", { ...Object.fromEntries(KEPT.map((name) => [name, view[name]])), columns });
}

function matching() {
  // the pages that all filters choose; null if there is no filter
  const setting = settings.get(view.setting);
  view.takenFor = [];
  if (!view.search.trim() && !view.type && !(setting && (view.value || view.mark)) && view.finding === "") return null;
  const { tests, takenFor } = pageSearch.asked(view.search);
  view.takenFor = takenFor;
  const types = codesOf(pages.type);
  const type = view.type === "" ? -1 : pages.type.words.indexOf(view.type);
  const value = setting && view.value !== "" ? setting.values.indexOf(view.value) : -1;
  const codes = setting ? codesOf(setting) : null;
  let among = null;
  if (view.finding !== "") {
    among = new Set(data.findings.filter((one) => view.finding === one.level || view.finding === one.name).flatMap((one) => one.pages));
  }
  const some = [];
  for (let page = 0; page < total; page++) {
    if (view.type !== "" && types[page] !== type) continue;
    if (value >= 0 && codes[page] !== value) continue;
    if (setting && view.mark === "exceptions" && !isException(setting, page)) continue;
    if (setting && view.mark === "own" && !(has(setting, page) && isOwn(setting, page))) continue;
    if (setting && view.mark === "not_shown" && !whyNotShown(setting, page)) continue;
    if (among && !among.has(page)) continue;
    if (!tests.every((test) => test(page))) continue;
    some.push(page);
  }
  return some;
}

const sortKeys = new Map([["Page", (page) => pages.title[page] || pages.path[page]], ["Type", (page) => wordOf(pages.type, page)]]);
const keyOf = (column) => sortKeys.get(column) || ((page) => valueOf(settings.get(column), page));

function sorted(some) {
  // by the column that is chosen: numbers as numbers, other texts as people order them
  if (!view.sort || !(sortKeys.has(view.sort) || settings.has(view.sort))) return some;
  const key = keyOf(view.sort);
  const keys = new Map(some.map((page) => [page, key(page)]));
  const numbers = [...keys.values()].every((one) => one === "" || one === "none" || !Number.isNaN(Number(one)));
  const order = new Intl.Collator("en", { numeric: true });
  const compare = numbers ? (one, other) => (Number(one) || 0) - (Number(other) || 0) : order.compare;
  const made = [...some].sort((one, other) => compare(keys.get(one), keys.get(other)) || one - other);
  return view.down ? made.reverse() : made;
}

function sortHeader(column) {
  const way = view.sort !== column ? null : view.down ? "descending" : "ascending";
  const label = way === "ascending" ? `${column} ▲` : way === "descending" ? `${column} ▼` : column;
  return element("th", { scope: "col", "aria-sort": way }, element("button", { type: "button", class: "sort", "data-sort": column, onclick: () => {
    view.down = way === "ascending" ? "1" : "";
    view.sort = way === "descending" ? "" : column;
    view.most = MOST_ROWS;
    drawRows();
    rowsIn.querySelector(`button[data-sort="${CSS.escape(column)}"]`).focus();
  } }, label));
}

function visible() {
  const found = [];
  const walk = (some) => {
    for (const page of some) {
      found.push(page);
      if (view.open.has(page)) walk(children[page]);
    }
  };
  walk(roots);
  return found;
}

function cell(setting, page) {
  if (!has(setting, page)) return element("td", { class: "without" }, element("span", { class: "hidden" }, "does not have it"));
  const marks = [];
  if (isOwn(setting, page)) marks.push(element("abbr", { title: "the page says it itself" }, "own"));
  if (isException(setting, page)) marks.push(element("abbr", { title: "the value differs from what comes down to the page" }, "exception"));
  if (whyNotShown(setting, page)) marks.push(element("abbr", { title: whyNotShown(setting, page) }, data.marks.not_shown));
  const source = sourceOf(setting, page);
  return element("td", { class: isOwn(setting, page) ? "own" : "inherited", title: source ? `from ${source[0]}` : null },
    valueOf(setting, page), marks.map((one) => [" ", one]));
}

function row(page, isTree) {
  const below = children[page].length;
  const isOpen = view.open.has(page);
  const toggle = isTree && below ? element("button", {
    type: "button", class: "toggle", "aria-expanded": String(isOpen), "data-page": page,
    "aria-label": `${isOpen ? "Hide" : "Show"} ${count(below, "page")} below ${pages.path[page]}`,
    onclick: () => { if (isOpen) view.open.delete(page); else view.open.add(page); drawRows(page); },
  }, isOpen ? "−" : "+") : null;
  const head = element("th", { scope: "row", class: "page" }, toggle || element("span", { class: "toggle" }), pageLink(page), " ",
    element("span", { class: "title" }, pages.title[page]));
  if (isTree) head.style.paddingInlineStart = `${Math.min(depth[page], 12) * 1.1 + 0.4}rem`;
  return element("tr", {}, head, element("td", {}, wordOf(pages.type, page)),
    view.columns.map((name) => cell(settings.get(name), page)));
}

let rowsIn = null;
let told = null;
function drawRows(focusOn) {
  const match = matching();
  const isTree = !match && !view.sort;
  const some = isTree ? visible() : sorted(match || pages.path.map((_, page) => page));
  keepView();
  const rowsOf = (begin, end) => some.slice(begin, end).map((page) => row(page, isTree));
  const columns = ["Page", "Type", ...view.columns];
  const texts = () => [["path", "title", ...columns.slice(1)], ...some.map((page) => [pages.path[page], pages.title[page], ...columns.slice(1).map((one) => keyOf(one)(page))])];
  rowsIn.replaceChildren(...tableOf("Pages, and what each gets", columns.map(sortHeader), rowsOf(0, view.most), texts));
  const body = rowsIn.querySelector("tbody");
  if (some.length > view.most) {
    const more = element("button", { type: "button", onclick: () => {
      body.append(...rowsOf(view.most, view.most + MORE_ROWS));  // what is drawn stays as it is
      view.most += MORE_ROWS;
      if (some.length <= view.most) more.remove();
    } }, `Show more of ${count(some.length, "page")}`);
    rowsIn.append(more);
  }
  const taken = view.takenFor.length ? ` (no page has that word; taken for ${view.takenFor.join(", ")})` : "";
  told.textContent = match ? `${count(match.length, "page")} of ${total.toLocaleString("en")} match${taken}` : `${count(total, "page")}`;
  if (focusOn !== undefined) {
    const button = rowsIn.querySelector(`button[data-page="${focusOn}"]`);
    if (button) button.focus();
  }
}

function changed(name, value) {
  view[name] = value;
  view.most = MOST_ROWS;
  drawRows();
}

function drawTree(main, kept) {
  loadView(kept);
  rowsIn = element("div", { id: "rows" });
  told = element("p", { role: "status", id: "told" });
  const values = element("select", { onchange: (event) => changed("value", event.target.value) });
  const fillValues = () => {
    const setting = settings.get(view.setting);
    values.replaceChildren(option("", "any value", view.value), ...(setting ? setting.values.map((one) => option(one, one, view.value)) : []));
    values.disabled = !setting;
  };
  fillValues();
  const columns = element("fieldset", {}, element("legend", {}, "Columns"), data.settings.map((one) =>
    element("label", { class: "check" }, element("input", {
      type: "checkbox", checked: view.columns.includes(one.name),
      onchange: (event) => {
        view.columns = event.target.checked ? [...view.columns, one.name] : view.columns.filter((name) => name !== one.name);
        drawRows();
      },
    }), one.name)));
  const findings = data.findings ? labelled("With a finding", element("select", { onchange: (event) => changed("finding", event.target.value) },
    option("", "any page", view.finding), LEVELS.map((level) => option(level, `any ${level}`, view.finding)),
    data.findings.map((one) => option(one.name, `${one.level}: ${one.message}`.slice(0, 80), view.finding)))) : null;
  add(main, 
    element("form", { class: "filters", role: "search", onsubmit: (event) => event.preventDefault() },
      labelled("Search", element("input", { type: "search", id: "search", placeholder: "a title, path, address or value", value: view.search, oninput: (event) => changed("search", event.target.value) })),
      labelled("Type", element("select", { onchange: (event) => changed("type", event.target.value) }, option("", "any type", view.type),
        pages.type.words.map((word) => option(word, word, view.type)))),
      labelled("Setting", element("select", { onchange: (event) => { view.value = ""; view.setting = event.target.value; fillValues(); changed("value", ""); } },
        option("", "no setting", view.setting), data.settings.map((one) => option(one.name, one.name, view.setting)))),
      labelled("Value", values),
      labelled("Only", element("select", { onchange: (event) => changed("mark", event.target.value) }, option("", "all values", view.mark),
        option("exceptions", "exceptions", view.mark), option("own", "what pages say themselves", view.mark), option("not_shown", "what is not shown", view.mark))),
      findings),
    element("details", {}, element("summary", {}, "Choose columns"), columns),
    told, rowsIn,
    element("p", { class: "legend" }, `Bold, with “own”: the page says it itself. Plain: inherited. “exception”: the value differs from what comes down to the page. “${data.marks.not_shown}”: it is set but not shown there.`));
  drawRows();
}

// ---- one page ----

const headingOf = (page) => pages.headings[page] ?? pages.title[page];
const notDrawn = new Set(["width", "inline-size", "position"]);

// What a look says, put on an element: the values were checked when the site was read.
function dressed(made, look, part) {
  for (const [name, value] of look ? look[part] : []) if (!notDrawn.has(name)) made.style.setProperty(name, value);
  return made;
}

function thingOf(thing, look, page) {
  const kind = element("p", { class: "kind" }, thing.kind === "heading" ? headingOf(page) || data.marks.empty : `${thing.kind}${thing.name ? " " + thing.name : ""}`);
  const isDressed = look && (thing.kind === "sidebar" || thing.kind === "band");
  const inside = isDressed
    ? [dressed(element("div", { class: "dressed" }, thing.inside.map(([name, words]) => dressed(element("div", { class: "block" },
      dressed(element("p", { class: "head" }, name), look, "headings"), words ? element("p", {}, words) : null), look, "each_block"))), look, "whole")]
    : thing.inside.map(([name, words]) => element("p", { class: "inside" }, words ? `${name}: ${words}` : name));
  return element("div", { class: "thing" }, kind, inside);
}

function areaBox(area, page, isPhone) {
  return element("div", { class: `area ${area.area === "content" ? "content" : ""} ${area.called ? "" : "unshown"}` },
    element("p", { class: "name" }, area.called && area.called !== area.area ? `${area.area} (the theme calls it ${area.called})` : area.area),
    area.called ? null : element("p", {}, `The theme has no place for it: it ${area.instead}.`),
    area.things.filter((thing) => thing.screens.includes(isPhone ? "phone" : "wide")).map((thing) => thingOf(thing, data.drawings.looks[area.look], page)));
}

function drawing(page, isPhone) {
  const plan = data.drawings.plans[codesOf(data.drawings)[page]];
  const areas = plan.areas.map((at) => data.drawings.areas[at]);
  if (!areas.length) return element("p", {}, "The page has no layout, so there is nothing to draw.");
  const box = (area) => areaBox(area, page, isPhone);
  const frame = element("div", { class: isPhone ? "screen phone" : "screen wide" });
  if (isPhone) {
    const byName = new Map(areas.map((area) => [area.area, area]));
    for (const name of plan.phone) if (byName.has(name)) frame.append(box(byName.get(name)));
  } else {
    const middle = element("div", { class: "middle" });
    const sides = ["left", "middle", "right"];
    for (const area of areas.filter((one) => one.side === "above")) frame.append(box(area));
    for (const side of sides) {
      for (const area of areas.filter((one) => one.side === side)) {
        const made = box(area);
        made.style.flex = `${Math.max(area.share, 0.12)} 1 0`;
        middle.append(made);
      }
    }
    frame.append(middle);
    for (const area of areas.filter((one) => one.side === "below")) frame.append(box(area));
  }
  return element("figure", {}, element("figcaption", {}, isPhone ? "On a phone" : `On a wide screen (${plan.layout}, ${plan.width}${plan.theme ? ", theme " + plan.theme : ""})`), frame,
    plan.placeless.length && !isPhone ? element("p", {}, `Set for areas that the layout lacks: ${plan.placeless.map((one) => one.join(" ")).join("; ")}`) : null);
}

function candidatesOf(setting, page) {
  const group = codesOf(setting.candidates)[page];
  if (group < 0) return null;
  return element("ol", { class: "candidates" }, setting.candidates.groups[group].map((at) => setting.candidates.rows[at]).map(([scope, says, place, verdict, reason, preset, because]) =>
    element("li", { class: verdict.replace(" ", "-") }, element("b", {}, says), ` ${scope}${place ? ` (${place})` : ""}`,
      preset ? `, preset ${preset}` : null, ": ", reason, because ? ` — “${because}”` : null)));
}

function settingRows(page, everything) {
  const rows = [];
  let group = "";
  const sorted = data.settings.filter((one) => has(one, page));
  const order = [...new Set(data.settings.map((one) => one.group))];
  sorted.sort((one, other) => order.indexOf(one.group) - order.indexOf(other.group));
  for (const one of sorted) {
    const source = sourceOf(one, page);
    if (!everything && source && source[0] === "built-in") continue;
    if (one.group !== group) {
      group = one.group;
      rows.push(element("tr", { class: "group" }, element("th", { colspan: "4", scope: "colgroup" }, group)));
    }
    const why = whyNotShown(one, page);
    rows.push(element("tr", {},
      element("th", { scope: "row" }, one.name, one.label ? element("span", { class: "title" }, ` ${one.label}`) : null),
      element("td", { class: isOwn(one, page) ? "own" : "inherited" }, valueOf(one, page), " ", copyButton(valueOf(one, page), "Copy", `Copy the value of ${one.name}`), isException(one, page) ? [" ", element("abbr", { title: "the value differs from what comes down to the page" }, "exception")] : null,
        why ? element("p", { class: "why" }, `not shown: ${why}`) : null),
      source ? element("td", {}, source[0], source[2] ? ", locked" : "", source[3] ? element("p", { class: "why" }, `“${source[3]}”`) : null) : element("td", {}, isOwn(one, page) ? "own" : "inherited"),
      element("td", {}, source && source[1] ? element("code", {}, source[1]) : null,
        one.candidates ? element("details", { ontoggle: (event) => {
          if (event.target.open && event.target.children.length < 2) event.target.append(candidatesOf(one, page));
        } }, element("summary", { "aria-label": `What ${one.name} beat` }, "What it beat")) : null)));
  }
  return rows;
}

function drawPage(main, path) {
  const page = pages.path.indexOf(path);
  if (page < 0) {
    add(main, element("p", {}, `There is no page ${path} in this report.`));
    return;
  }
  const above = pages.parent[page];
  const details = Object.entries(pages.details).map(([name, column]) => [name, wordOf(column, page)]).filter((one) => one[1]);
  const lines = Object.entries(pages.lines).map(([name, column]) => [name, wordOf(column, page)]).filter((one) => one[1]);
  const rows = [["type", wordOf(pages.type, page)], ...lines, ...details];
  add(main, element("h2", { tabindex: "-1" }, pages.title[page] || path),
    element("p", { class: "path" }, path, above >= 0 ? [", below ", pageLink(above)] : ", at the top"),
    /^https?:\/\//.test(publicAddress(page)) ? element("p", {}, element("a", { href: publicAddress(page), rel: "noreferrer" }, publicAddress(page)), " ", copyButton(publicAddress(page), "Copy address")) : null,
    element("dl", {}, rows.map(([name, text]) => element("div", {}, element("dt", {}, name), element("dd", {}, text)))),
    element("section", { class: "screens", "aria-label": "What a reader meets" }, drawing(page, false), drawing(page, true)));
  const body = element("div", {});
  const draw = (everything) => body.replaceChildren(...tableOf("Settings, and where each comes from", ["Setting", "Value", "From", "Where"], settingRows(page, everything)));
  draw(false);
  add(main, element("h3", {}, "Settings"), element("label", { class: "check" }, element("input", { type: "checkbox", onchange: (event) => draw(event.target.checked) }), "Also what is built in"), body);
  if (data.access) {
    const rowsOf = data.access.groups[codesOf(data.access)[page]];
    add(main, element("h3", {}, "Who may do what"), tableOf("What each viewer may do on this page", ["Who", "May"], rowsOf.map(([who, may]) =>
      element("tr", {}, element("th", { scope: "row" }, who), element("td", {}, may.join(", ") || "nothing")))));
  }
  if (data.findings) {
    const mine = data.findings.filter((one) => one.pages.includes(page));
    add(main, element("h3", {}, count(mine.length, "finding")), mine.map((one) => drawFinding(one)));
  }
  if (children[page].length) add(main, element("h3", {}, count(children[page].length, "page", "pages") + " below"), pageList(children[page]));
}

// ---- findings, declarations, exceptions, menus, changes ----

const LEVELS = ["error", "warning", "note"];

function drawFinding(one, isOpen) {
  const body = () => [element("p", {}, "Fix: ", one.fix, " ", copyButton(one.fix, "Copy fix")),
    one.statements.length ? element("ul", {}, one.statements.map(([scope, place, value]) => element("li", {}, `${scope}: ${value}`, place ? [" ", element("code", {}, place)] : null))) : null,
    one.pages.length ? [element("p", {}, `${count(one.pages.length, "page")}: `, element("a", { href: addressOf("tree", "", { finding: one.name }) }, "show them in the tree")), pageList(one.pages)] : null,
    element("p", { class: "why" }, `${one.kind}, `, element("code", {}, `davlo check ${one.name}`), " ", copyButton(`davlo check ${one.name}`, "Copy command"), " ",
      element("a", { href: addressOf("finding", one.name) }, "link to this finding"))];
  const made = element("details", { class: `finding ${one.level}`, open: isOpen, ontoggle: () => {
    if (made.open && made.children.length < 2) add(made, body());  // drawn when it is first opened
  } }, element("summary", {}, element("span", { class: "level" }, one.level), " ", element("span", {}, one.message)));
  if (isOpen) add(made, body());
  return made;
}

function drawOneFinding(main, name) {
  const one = data.findings.find((finding) => finding.name === name);
  add(main, one ? drawFinding(one, true) : element("p", {}, `There is no finding ${name} in this report.`));
  add(main, element("p", {}, element("a", { href: "#findings" }, "All findings")));
}

function drawFindings(main, kept) {
  const state = { search: kept.get("search") || "", level: kept.get("level") || "", kind: kept.get("kind") || "", topic: kept.get("topic") || "" };
  const topicOf = (one) => one.setting.split(".")[0] || "site";
  const within = new Map(data.findings.map((one) => [one, plain(`${one.message}\n${one.kind}\n${one.name}\n${one.setting}`)]));
  const numbers = element("p", { role: "status" });
  const list = element("div", {});
  const draw = () => {
    keep("findings", state);
    const words = plain(state.search).split(/\s+/).filter(Boolean);
    const some = data.findings.filter((one) => (!state.level || one.level === state.level) && (!state.kind || one.kind === state.kind)
      && (!state.topic || topicOf(one) === state.topic)
      && words.every((word) => within.get(one).includes(word) || one.pages.some((page) => pageSearch.texts[page].includes(word))));
    numbers.textContent = LEVELS.map((level) => count(some.filter((one) => one.level === level).length, level)).join(", ");
    let drawn = 0;
    const next = () => {
      list.append(...some.slice(drawn, drawn + MOST_FINDINGS).map((one) => drawFinding(one)));
      drawn += MOST_FINDINGS;
    };
    list.replaceChildren();
    next();
    if (some.length > drawn) {
      const more = element("button", { type: "button", onclick: () => { next(); if (some.length > drawn) list.append(more); else more.remove(); } }, `Show more of ${count(some.length, "finding")}`);
      list.append(more);
    }
  };
  const select = (name, any, words) => labelled(name[0].toUpperCase() + name.slice(1), element("select", { onchange: (event) => { state[name] = event.target.value; draw(); } },
    option("", any, state[name]), words.map((word) => option(word, word, state[name]))));
  const each = (of) => [...new Set(data.findings.map(of))].sort();
  add(main, element("form", { class: "filters", role: "search", onsubmit: (event) => event.preventDefault() },
    labelled("Search", element("input", { type: "search", placeholder: "words, a page, a name", value: state.search, oninput: (event) => { state.search = event.target.value; draw(); } })),
    select("level", "any level", LEVELS), select("kind", "any kind", each((one) => one.kind)), select("topic", "any topic", each(topicOf))),
    numbers, list, element("p", {}, `${count(data.accepted, "finding")} accepted, and not shown.`));
  draw();
}

// ---- who may do what, over all pages ----

function drawAccess(main, kept) {
  const actions = data.access.actions;
  const codes = codesOf(data.access);
  const sizes = new Int32Array(data.access.groups.length);
  for (const code of codes) sizes[code]++;
  const may = new Map();  // by viewer and action: whether each group of pages allows it
  data.access.groups.forEach((rows, code) => rows.forEach(([who, some]) => some.forEach((action) => {
    const key = `${who} ${action}`;
    if (!may.has(key)) may.set(key, new Set());
    may.get(key).add(code);
  })));
  const shown = element("section", { "aria-live": "polite" });
  const show = (who, action) => {
    keep("access", { who, action });
    const mine = may.get(`${who} ${action}`) || new Set();
    const some = [...codes.keys()].filter((page) => mine.has(codes[page]));
    shown.replaceChildren(element("h3", {}, `${who} may ${action}: ${count(some.length, "page")}`), pageList(some));
  };
  const cellOf = (who, action) => {
    const number = [...(may.get(`${who} ${action}`) || [])].reduce((sum, code) => sum + sizes[code], 0);
    return element("td", {}, number ? element("button", { type: "button", class: "sort", "aria-label": `${who} may ${action}: ${count(number, "page")}`,
      onclick: () => show(who, action) }, number === total ? `all ${number}` : number.toLocaleString("en")) : "0");
  };
  add(main, element("p", {}, `On how many of the ${count(total, "page")} each may do what; choose a number to list the pages.`),
    tableOf("Who may do what", ["Who", "Is", ...actions], data.access.who.map(([who, kind]) =>
      element("tr", {}, element("th", { scope: "row" }, who), element("td", {}, kind), actions.map((action) => cellOf(who, action))))), shown);
  if (kept.get("who")) show(kept.get("who"), kept.get("action") || "edit");
}

function drawDeclarations(main) {
  for (const kind of new Set(data.declarations.map((one) => one.kind))) {
    const some = data.declarations.filter((one) => one.kind === kind);
    add(main, element("h3", {}, `${kind} (${some.length})`), some.map((one) => element("details", {},
      element("summary", {}, element("b", {}, one.name), one.label ? ` ${one.label}` : "", one.pages >= 0 ? `: ${count(one.pages, "page")}` : "", one.not_shown ? `, not shown on ${one.not_shown}` : ""),
      one.note ? element("p", {}, one.note) : null,
      Object.keys(one.areas).length ? element("p", {}, Object.entries(one.areas).map(([area, number]) => `${area}: ${count(number, "page")}`).join("; ")) : null,
      element("pre", {}, one.details.join("\n")), exampleOf(one),
      one.named.length ? element("p", {}, `Named by: ${one.named.join("; ")}`) : null,
      element("p", { class: "why" }, one.place), one.used.length ? usersOf(one) : null)));
  }
}

const isIn = {  // whether an area holds a declaration, by the kind of that
  sidebar: (area, name) => area.things.some((thing) => thing.kind === "sidebar" && thing.name === name),
  band: (area, name) => area.things.some((thing) => thing.kind === "band" && thing.name === name),
  look: (area, name) => area.look === name && area.things.length > 0,
  block: (area, name) => area.things.some((thing) => thing.name === name || thing.inside.some(([block]) => block === name)),
};

function exampleOf(one) {
  // what a declaration looks like on the first page that shows it, drawn when it is first asked for
  const plans = data.drawings.plans;
  const areaIn = (plan) => plan.areas.map((at) => data.drawings.areas[at]).find((area) => area.called && isIn[one.kind](area, one.name));
  const fits = one.kind === "layout" || one.kind === "theme" ? (plan) => plan[one.kind] === one.name : isIn[one.kind] ? areaIn : null;
  const plan = fits ? plans.findIndex(fits) : -1;
  if (plan < 0) return null;
  const page = codesOf(data.drawings).indexOf(plan);
  const area = isIn[one.kind] ? areaIn(plans[plan]) : null;
  return element("details", { ontoggle: (event) => {
    if (!event.target.open || event.target.children.length > 1) return;
    event.target.append(element("p", {}, area ? `In the area ${area.area} of ` : "On ", pageLink(page)),
      element("div", { class: "screens" }, area ? element("div", { class: "screen alone" }, areaBox(area, page, !area.things.some((thing) => thing.screens.includes("wide")))) : [drawing(page, false), drawing(page, true)]));
  } }, element("summary", {}, "What it looks like"));
}

function usersOf(one) {
  // the pages that use a declaration, listed when they are first asked for
  const shown = element("details", { ontoggle: (event) => {
    if (!event.target.open || event.target.children.length > 1) return;
    const codes = runsOut(one.used);
    event.target.append(pageList([...codes.keys()].filter((page) => codes[page])));
  } }, element("summary", {}, "The pages that use it"));
  return one.pages ? shown : null;
}

function drawExceptions(main) {
  add(main, element("p", {}, `${count(data.exceptions.length, "cause makes", "causes make")} pages exceptions.`),
    data.exceptions.map((one) => element("details", {}, element("summary", {}, one.cause),
      element("ul", {}, one.settings.map((text) => element("li", {}, text))), pageList(one.pages))));
}

function drawMenus(main) {
  const languages = [...new Set(data.menus.map((one) => one.language))];
  const state = { language: languages[0], viewer: data.menus[0] ? data.menus[0].viewers[0] : "" };
  const viewers = [...new Set(data.menus.filter((one) => one.what === "menu").flatMap((one) => one.viewers))];
  const body = element("div", {});
  const linkList = (links) => element("ul", { class: "links" }, links.map(([level, label, page, isHeading, isClosed]) => {
    const item = element("li", {}, page >= 0 ? [label, " ", pageLink(page)] : label, isHeading ? " (a heading)" : "", isClosed ? " (closed to this viewer)" : "");
    item.style.marginInlineStart = `${(level - 1) * 1.2}rem`;
    return item;
  }));
  const draw = () => {
    const mine = data.menus.filter((one) => one.language === state.language);
    const theirs = mine.filter((one) => one.viewers.includes(state.viewer));
    const menu = theirs.find((one) => one.what === "menu");
    const who = state.viewer === "visitor" ? "a visitor" : state.viewer;
    body.replaceChildren(element("h3", {}, `The menu as ${who} sees it`), menu ? linkList(menu.links) : "",
      element("h3", {}, "Lists of links"),
      ...theirs.filter((one) => one.what !== "menu").map((one) => element("details", {}, element("summary", {}, `${one.what}: ${count(one.links.length, "link")}`), linkList(one.links))));
  };
  add(main, element("form", { class: "filters", onsubmit: (event) => event.preventDefault() },
    languages.length > 1 ? labelled("Language", element("select", { onchange: (event) => { state.language = event.target.value; draw(); } }, languages.map((one) => option(one)))) : null,
    labelled("As", element("select", { onchange: (event) => { state.viewer = event.target.value; draw(); } }, viewers.map((one) => option(one))))), body);
  draw();
}

function drawChanges(main) {
  add(main, element("p", {}, data.changes.title), element("p", {}, data.changes.numbers),
    data.changes.sections.map(([title, lines]) => [element("h3", {}, title), element("ul", {}, lines.map((line) => element("li", {}, line)))]));
  if (!data.changes.sections.length) add(main, element("p", {}, "Nothing differs."));
}

// ---- views ----

const views = [["tree", "Pages", drawTree],
  data.findings && ["findings", "Findings", drawFindings],
  data.access && ["access", "Access", drawAccess],
  data.declarations && ["declarations", "Declarations", drawDeclarations],
  data.exceptions && ["exceptions", "Exceptions", drawExceptions],
  ["menus", "Menus", drawMenus],
  data.changes && ["changes", "What changed", drawChanges]].filter(Boolean);

function show(isFirst) {
  const main = document.getElementById("main");
  const { name, word, kept } = here();
  const chosen = views.find((one) => one[0] === name) || views[0];
  main.replaceChildren();
  if (name === "page") {
    drawPage(main, word);
  } else if (name === "finding" && data.findings) {
    add(main, element("h2", { tabindex: "-1" }, `Finding ${word}`));
    drawOneFinding(main, word);
  } else {
    add(main, element("h2", { tabindex: "-1" }, chosen[1]));
    chosen[2](main, kept);
  }
  const heading = main.querySelector("h2");
  document.title = `${heading ? heading.textContent : chosen[1]} – ${data.site.name}`;
  const current = name === "page" ? "tree" : name === "finding" ? "findings" : chosen[0];
  for (const link of document.querySelectorAll("#views a")) {
    if (link.hash === `#${current}`) link.setAttribute("aria-current", "page");
    else link.removeAttribute("aria-current");
  }
  if (comeBack() || isFirst) return;
  if (heading) heading.focus();
  window.scrollTo(0, 0);
}

const levels = data.findings ? LEVELS.map((level) => count(data.findings.filter((one) => one.level === level).length, level)) : [];
document.getElementById("summary").append(...[" ", count(total, "page"), levels.length ? `; ${levels.join(", ")}` : "", "."]);
document.getElementById("views").append(...views.map(([name, title]) => element("li", {}, element("a", { href: `#${name}` }, title))));
window.addEventListener("hashchange", () => show(false));
show(true);
