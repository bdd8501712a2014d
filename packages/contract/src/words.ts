import { z } from 'zod';

const TYPES: Readonly<Record<string, string>> = {
  string: 'a text',
  number: 'a number',
  int: 'a whole number',
  boolean: 'true or false',
  array: 'a list',
  object: 'fields with values',
  record: 'names with values',
  date: 'a date',
  null: 'nothing',
};
const FORMATS: Readonly<Record<string, string>> = {
  email: 'this is no email address',
  url: 'this is no address',
  uuid: 'this is no id',
  datetime: 'this is no time; write it as 2026-11-01T10:00:00Z',
};
const SIZES: Readonly<Record<string, readonly [one: string, many: string]>> = {
  string: ['character', 'characters'],
  array: ['entry', 'entries'],
  set: ['entry', 'entries'],
  map: ['entry', 'entries'],
};
/** As they stand in a sentence: a few, and how many more. */
const someOf = (names: readonly unknown[]): string => {
  const few = names.slice(0, 8).map((name) => String(name).slice(0, 60));
  return names.length > few.length ? `${few.join(', ')} or one of ${names.length - few.length} more` : few.join(', ');
};
function amount(limit: number | bigint, origin: string): string {
  const words = SIZES[origin];
  return words ? `${limit} ${Number(limit) === 1 ? words[0] : words[1]}` : String(limit);
}

type Issue = z.core.$ZodRawIssue;
/** What is wrong with a value, said to whoever gave it. What a schema says itself comes before. */
function wordsFor(issue: Issue): string {
  switch (issue.code) {
    case 'invalid_type': {
      const wanted = TYPES[issue.expected] ?? 'something else';
      return issue.input === undefined ? `is missing: ${wanted}` : `this is not ${wanted}`;
    }
    case 'too_small':
      return issue.exact
        ? `exactly ${amount(issue.minimum, issue.origin)}`
        : issue.inclusive
          ? `at least ${amount(issue.minimum, issue.origin)}`
          : `more than ${amount(issue.minimum, issue.origin)}`;
    case 'too_big':
      return issue.exact
        ? `exactly ${amount(issue.maximum, issue.origin)}`
        : issue.inclusive
          ? `at most ${amount(issue.maximum, issue.origin)}`
          : `less than ${amount(issue.maximum, issue.origin)}`;
    case 'not_multiple_of':
      return `a multiple of ${issue.divisor}`;
    case 'invalid_format':
      return FORMATS[issue.format] ?? 'this is not of the form that is wanted here';
    case 'unrecognized_keys':
      return `there is no field called ${someOf(issue.keys)} here`;
    case 'invalid_value':
      return issue.values.length === 1
        ? `only ${someOf(issue.values)} may stand here`
        : `one of ${someOf(issue.values)}`;
    case 'invalid_union':
      return 'this is none of the forms that it may have';
    case 'invalid_key':
      return 'this name may not stand here';
    case 'invalid_element':
      return 'an entry is not as it may be';
    default:
      return 'this is not right';
  }
}
z.config({ customError: wordsFor });
