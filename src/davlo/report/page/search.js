"use strict";
// Words as people type them: letter case and accents make no difference, and one slip is forgiven.

const MARKS_ABOVE = /\p{M}+/gu;
const NOT_A_WORD = /[^\p{L}\p{N}]+/u;
const LEAST_FOR_SLIPS = 4;
const LEAST_FOR_VALUES = 3;

function plain(text) {
  return text.normalize("NFD").replace(MARKS_ABOVE, "").toLowerCase();
}

function isNear(one, other) {
  // whether a letter is missing, too many, another, or two are swapped
  if (Math.abs(one.length - other.length) > 1) return false;
  let at = 0;
  while (at < one.length && one[at] === other[at]) at++;
  let back = 0;
  while (back < one.length - at && back < other.length - at && one[one.length - 1 - back] === other[other.length - 1 - back]) back++;
  const left = one.length - at - back;
  const right = other.length - at - back;
  if (left <= 1 && right <= 1) return true;
  return left === 2 && right === 2 && one[at] === other[at + 1] && one[at + 1] === other[at];
}

class Search {
  // texts: for each page what it is searched by; columns: codes by page and the words that they mean
  constructor(texts, columns) {
    this.texts = texts.map(plain);
    this.columns = columns.map(({ codes, words }) => ({ codes, words: words.map(plain) }));
  }

  words() {
    // the words of all pages and values, each once
    if (!this.known) {
      this.known = new Set(this.texts.flatMap((text) => text.split(NOT_A_WORD)));
      for (const column of this.columns) for (const word of column.words) for (const part of word.split(NOT_A_WORD)) this.known.add(part);
    }
    return this.known;
  }

  test(word) {
    // what tells whether a page has a word in its texts, or in a value
    const columns = word.length < LEAST_FOR_VALUES ? [] : this.columns.map(({ codes, words }) => ({
      codes: codes(), holds: words.map((one) => one.includes(word)) })).filter(({ holds }) => holds.includes(true));
    return (page) => this.texts[page].includes(word) || columns.some(({ codes, holds }) => holds[codes[page]]);
  }

  asked(text) {
    // the tests of all words that were typed, and what words that no page has are taken for
    const takenFor = [];
    const tests = plain(text).split(/\s+/).filter(Boolean).map((word) => {
      const test = this.test(word);
      if (word.length < LEAST_FOR_SLIPS || this.texts.some((_, page) => test(page))) return test;
      const near = [...this.words()].filter((one) => isNear(word, one) || (one.length > word.length && isNear(word, one.slice(0, word.length))));
      if (!near.length) return test;
      takenFor.push(near[0]);
      const others = near.map((one) => this.test(one));
      return (page) => others.some((other) => other(page));
    });
    return { tests, takenFor };
  }
}
