"use strict";

// Finds the sections that have all the words; those that have them in their heading come first, and before them those that say what
// the trade calls by these words.
const wanted = document.getElementById("wanted");
const hits = document.getElementById("hits");
const MOST = 12;
const AROUND = 70;

function score(section, words) {
  const heading = (section.heading + " " + section.page).toLowerCase();
  const text = section.text.toLowerCase();
  let sum = 0;
  for (const word of words) {
    const inHeading = heading.includes(word);
    const often = text.split(word).length - 1;
    if (!inHeading && often === 0) return 0;
    sum += (inHeading ? 20 : 0) + Math.min(often, 10);
  }
  return sum;
}

function element(name, text) {
  const made = document.createElement(name);
  made.textContent = text;
  return made;
}

function excerpt(section, word) {
  const at = section.text.toLowerCase().indexOf(word);
  const from = Math.max(0, at - AROUND / 2);
  const part = element("span", "");
  if (at < 0) {
    part.textContent = section.text.slice(0, AROUND) + " …";
    return part;
  }
  part.append(from > 0 ? "… " : "", section.text.slice(from, at), element("mark", section.text.slice(at, at + word.length)),
    section.text.slice(at + word.length, at + AROUND), " …");
  return part;
}

// A word of the trade counts as soon as it begins like what is typed, or is part of it.
function meant(typed) {
  const text = typed.toLowerCase().trim().replace(/\s+/g, " ");
  const spaced = " " + text + " ";
  const numbers = new Set();
  if (text.length > 1) {
    for (const { section, words } of TRADE) {
      if (words.some(word => word.startsWith(text) || spaced.includes(" " + word + " "))) numbers.add(section);
    }
  }
  return numbers;
}

function find() {
  const words = wanted.value.toLowerCase().split(/\s+/).filter(word => word.length > 1);
  const named = meant(wanted.value);
  hits.replaceChildren();
  if (words.length === 0) return;
  const found = SECTIONS.map((section, number) => ({ section, sum: score(section, words) + (named.has(number) ? 1000 : 0) }))
    .filter(each => each.sum > 0)
    .sort((one, other) => other.sum - one.sum)
    .slice(0, MOST);
  for (const { section } of found) {
    const link = element("a", "");
    link.href = section.address;
    const where = section.page === section.heading ? section.page : section.page + " · " + section.heading;
    link.append(element("b", where), excerpt(section, words[0]));
    const item = document.createElement("li");
    item.append(link);
    hits.append(item);
  }
  if (found.length === 0) {
    const none = element("li", "No section has these words.");
    none.className = "none";
    hits.append(none);
  }
}

wanted.addEventListener("input", find);
document.addEventListener("keydown", event => {
  const links = [...hits.querySelectorAll("a")];
  const at = links.indexOf(document.activeElement);
  if (event.key === "/" && document.activeElement !== wanted) {
    event.preventDefault();
    wanted.focus();
  } else if (event.key === "Escape") {
    wanted.value = "";
    find();
  } else if (event.key === "ArrowDown" && (document.activeElement === wanted || at >= 0) && links.length > 0) {
    event.preventDefault();
    links[Math.min(links.length - 1, at + 1)].focus();
  } else if (event.key === "ArrowUp" && at >= 0) {
    event.preventDefault();
    (at === 0 ? wanted : links[at - 1]).focus();
  } else if (event.key === "Enter" && document.activeElement === wanted && links.length > 0) {
    location.href = links[0].href;
  }
});
