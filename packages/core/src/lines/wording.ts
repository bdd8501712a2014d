/** A changing part that is told by its form: a number, an id, an address, a quoted text. */
const PART = '…';
/** A changing part that was learned. Told apart, since a learned one takes any word. */
const LEARNED = '⋯';
const MOST_WORDS = 60;
/** More different words than these in one place of otherwise equal lines are a changing part. */
const SAME_PLACE = 8;
/** Of one stream; what comes after is other. */
export const MOST_WORDINGS = 1000;
/** How many places of the tree are looked at for one line. */
const MOST_LOOKS = 500;
export const OTHER = 0;

const HEAD =
  /^(?:[[(]?(?:\d{4}[-/]\d\d[-/]\d\d(?:[T ]\d\d:\d\d(?::\d\d)?(?:[.,]\d{1,9})?)?(?:Z|[+-]\d\d:?\d\d)?|\d\d:\d\d:\d\d(?:[.,]\d{1,9})?|[A-Z][a-z]{2} [ \d]\d \d\d:\d\d:\d\d|\d{10}(?:[.,]?\d{1,9})?)[\])]?[ \t,:|-]{0,4}|[[(<]?(?:TRACE|DEBUG|INFO|NOTICE|WARN|WARNING|ERROR|FATAL|CRITICAL|SEVERE|PANIC|trace|debug|info|notice|warn|warning|error|fatal|critical|severe|panic)(?:[\])>]:?|:|(?= [[\w"(]))[ \t,:|-]{0,4}|\[[^\]\s]{1,80}\][ \t,:|-]{0,4}|trace_?id[=:][0-9a-f]{32}[ \t,]{0,4})/;
const QUOTED = /(^|[\s=:,([{])(?:"[^"\n]{0,2000}"|'[^'\n]{0,2000}')/g;
const EXCEPTION = /\b([A-Za-z_$][\w$.]{0,120}(?:Exception|Error|Panic|Failure))\b/;

/**
 * A line's text with the changing parts that tell themselves by their form taken out, as words. Of several lines it is the first one,
 * and the first type of exception in the others.
 */
export function wordsOf(text: string): string[] {
  const end = text.indexOf('\n');
  let first = (end < 0 ? text : text.slice(0, end)).slice(0, 2000);
  for (let i = 0; i < 5; i++) {
    const head = HEAD.exec(first);
    if (head === null || head[0] === '' || head[0].length >= first.length) break;
    first = first.slice(head[0].length);
  }
  const words = joinedParts(
    first
      .replace(QUOTED, (_, before: string) => `${before}${PART}`)
      .split(/\s+/)
      .filter((word) => word !== '')
      .map(plainWord),
  );
  if (end >= 0) {
    const type = EXCEPTION.exec(text.slice(end, end + 8000))?.[1];
    if (type !== undefined && !words.includes(type)) words.push(type);
  }
  return words.length > MOST_WORDS ? [...words.slice(0, MOST_WORDS), PART] : words;
}
/** Pieces of a word that have a digit, or are long rows of hex digits, change. */
function plainWord(word: string): string {
  if (word.length > 200) return PART;
  return word
    .replace(/[\p{L}\p{N}_.@%+~-]+/gu, (piece) => {
      if (!/\p{N}/u.test(piece)) return /^[0-9a-f]{8,}$/i.test(piece) ? PART : piece;
      // a full stop at the end is the sentence's
      return `${PART}${/[.-]$/.exec(piece)?.[0] ?? ''}`;
    })
    .replace(/…(?:[:/,;|&x*-]*…)+/g, PART);
}
/** Lists of changing parts are one, however long they are. */
function joinedParts(words: readonly string[]): string[] {
  const out: string[] = [];
  for (const word of words) {
    const before = out.at(-1);
    const begun = before === undefined ? null : /^(\S*[[({=:])?…[,;]?$/.exec(before);
    if (begun && /^…[,;)\]}]*$/.test(word)) out[out.length - 1] = `${begun[1] ?? ''}${word}`;
    else out.push(word);
  }
  return out;
}

export interface KeptWording {
  readonly number: number;
  /** Its words, parted by blanks. */
  readonly text: string;
  /** The wording that it turned out to be; null for one that stands by itself. */
  readonly aliasOf: number | null;
}
interface Own {
  readonly number: number;
  words: readonly string[];
  aliasOf: number | null;
}

/**
 * The wordings of one stream. They are learned as lines come, bounded, and the same again after a restart when those that are kept are
 * given back. A number once given stays: of wordings that turn out to be one, the others become aliases of the lowest.
 */
export class Wordings {
  private readonly byText = new Map<string, Own>();
  private readonly byNumber = new Map<number, Own>();
  /** Those with a learned part, by how many words they have. */
  private readonly learned = new Map<number, Branch>();
  /** Which words stood in one place of otherwise equal wordings: by the wording with that place open. */
  private readonly places = new Map<string, Own | Map<string, Own>>();
  private next = 1;
  private readonly fresh = new Set<Own>();
  /** Lines that found no room. */
  others = 0;

  static of(kept: readonly KeptWording[]): Wordings {
    const wordings = new Wordings();
    for (const { number, text, aliasOf } of [...kept].sort((a, b) => a.number - b.number)) {
      const own: Own = { number, words: text.split(' '), aliasOf };
      wordings.byNumber.set(number, own);
      if (!wordings.byText.has(text)) wordings.byText.set(text, own);
      wordings.next = Math.max(wordings.next, number + 1);
      if (aliasOf === null || text.includes(LEARNED)) wordings.remember(own);
    }
    return wordings;
  }

  /** The number of a line's wording; 0 where it is one of the others. */
  numberOf(words: readonly string[]): number {
    if (words.length === 0) return OTHER;
    const text = words.join(' ');
    const known = this.byText.get(text) ?? this.match(words);
    if (known) return this.standing(known).number;
    if (this.byNumber.size >= MOST_WORDINGS) {
      this.others++;
      return OTHER;
    }
    return this.standing(this.add(words)).number;
  }
  /** What people read: the text with an ellipsis for each changing part. */
  textOf(number: number): string | null {
    const own = this.byNumber.get(number);
    return own ? this.standing(own).words.join(' ').replaceAll(LEARNED, PART) : null;
  }
  /** The number that counts: of the wording that an alias turned out to be. */
  standingOf(number: number): number {
    const own = this.byNumber.get(number);
    return own ? this.standing(own).number : OTHER;
  }
  get size(): number {
    return this.byNumber.size;
  }
  /** What is to be kept since it was asked the last time. */
  toKeep(): KeptWording[] {
    return [...this.fresh].map(({ number, words, aliasOf }) => ({ number, text: words.join(' '), aliasOf }));
  }
  kept(those: readonly KeptWording[]): void {
    for (const { number, text, aliasOf } of those) {
      const own = this.byNumber.get(number);
      if (own && own.aliasOf === aliasOf && own.words.join(' ') === text) this.fresh.delete(own);
    }
  }

  private standing(own: Own): Own {
    let at = own;
    // an alias is always of a lower number, so this ends
    while (at.aliasOf !== null) at = this.byNumber.get(at.aliasOf)!;
    return at;
  }
  private add(words: readonly string[]): Own {
    const own: Own = { number: this.next++, words, aliasOf: null };
    this.byText.set(words.join(' '), own);
    this.byNumber.set(own.number, own);
    this.fresh.add(own);
    this.remember(own);
    this.join(own);
    return own;
  }
  private remember(own: Own): void {
    if (own.words.includes(LEARNED)) this.branch(own);
    for (let i = 0; i < own.words.length; i++) {
      const word = own.words[i]!;
      if (word === LEARNED || word === PART) continue;
      const key = open(own.words, i);
      const held = this.places.get(key);
      if (held instanceof Map) held.set(word, own);
      // most places have one word only
      else if (held === undefined || held === own) this.places.set(key, own);
      else
        this.places.set(
          key,
          new Map([
            [held.words[i]!, held],
            [word, own],
          ]),
        );
    }
  }
  /** Where more than eight different words stood in a place, those wordings are one, and that may make others one. */
  private join(own: Own): void {
    for (let i = 0; i < own.words.length; i++) {
      const word = own.words[i]!;
      if (word === LEARNED || word === PART) continue;
      const place = this.places.get(open(own.words, i));
      if (!(place instanceof Map) || place.size <= SAME_PLACE) continue;
      const left = own.words.filter((one, at) => at !== i && one !== LEARNED && one !== PART && /\p{L}/u.test(one));
      if (left.length === 0) continue;
      const words = own.words.with(i, LEARNED);
      const known = this.byText.get(words.join(' '));
      const all = [...place.values(), ...(known ? [known] : [])].map((one) => this.standing(one));
      this.join(this.becomeOne(all, words));
      return;
    }
  }
  /** The lowest number has the words from now on, and what had numbers of its own is an alias of it. */
  private becomeOne(all: readonly Own[], words: readonly string[]): Own {
    const lowest = all.reduce((a, b) => (b.number < a.number ? b : a));
    for (const one of all) {
      if (one === lowest) continue;
      one.aliasOf = lowest.number;
      this.fresh.add(one);
    }
    lowest.words = words;
    this.byText.set(words.join(' '), lowest);
    this.fresh.add(lowest);
    this.remember(lowest);
    return lowest;
  }

  private branch(own: Own): void {
    let at = this.learned.get(own.words.length);
    if (!at) {
      at = new Map();
      this.learned.set(own.words.length, at);
    }
    own.words.forEach((word, i) => {
      if (i === own.words.length - 1) at!.set(word, own);
      else {
        const next = at!.get(word);
        if (next instanceof Map) at = next;
        else {
          const made: Branch = new Map();
          at!.set(word, made);
          at = made;
        }
      }
    });
  }
  private match(words: readonly string[]): Own | null {
    const root = this.learned.get(words.length);
    let looks = 0;
    const look = (branch: Branch, i: number): Own | null => {
      for (const word of [words[i]!, LEARNED]) {
        if (++looks > MOST_LOOKS) return null;
        const next = branch.get(word);
        const found = next === undefined ? null : next instanceof Map ? look(next, i + 1) : next;
        if (found !== null) return found;
      }
      return null;
    };
    return root ? look(root, 0) : null;
  }
}
type Branch = Map<string, Branch | Own>;
/** The wording with a place open, as a number: its text would be many times as long as the wording. */
function open(words: readonly string[], i: number): string {
  let a = 0x811c9dc5 ^ i;
  let b = 0x050c5d1f ^ words.length;
  words.forEach((word, at) => {
    if (at !== i)
      for (let j = 0; j <= word.length; j++) {
        const code = j === word.length ? 32 : word.charCodeAt(j);
        a = Math.imul(a ^ code, 0x01000193);
        b = Math.imul(b ^ (code + at), 0x85ebca6b);
        b ^= b >>> 13;
      }
  });
  return `${(a >>> 0).toString(36)}.${(b >>> 0).toString(36)}`;
}
