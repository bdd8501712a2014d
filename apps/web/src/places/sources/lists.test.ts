import { describe, expect, it } from 'vitest';
import { dropText, labelText, readDrops, readLabels, readList, readSelector, selectorText } from './lists.ts';

describe('lists as they are typed', () => {
  it('labels: read back as they were written', () => {
    const labels = { quay: 'north: outer', zone: '' };
    expect(readLabels(labelText(labels))).toEqual({ labels, problem: null });
    expect(readLabels('quay north').problem).toMatch(/a colon/);
    expect(readLabels('a-b: c').problem).toMatch(/no name of a label/);
  });
  it('selectors: a key alone means any value', () => {
    const selector = { 'app.test/part': 'web', tier: '' };
    expect(readSelector(selectorText(selector))).toEqual({ selector, problem: null });
    expect(readSelector('a b: c').problem).toMatch(/no key/);
  });
  it('drop rules: read back as they were written', () => {
    const rules = [
      { metric: 'debug_*', label: '', is: '' },
      { metric: 'requests_total', label: 'user', is: 'a b' },
    ];
    expect(readDrops(dropText(rules))).toEqual({ rules, problem: null });
    expect(readDrops('a b').problem).toMatch(/METRIC where LABEL is VALUE/);
    expect(readDrops('a where b-c is d').problem).toMatch(/no name of a label/);
  });
});

describe('a pasted list', () => {
  it('is addresses alone, each with a name made of it', () => {
    expect(readList('http://10.0.0.1:9102/metrics\n\n# one more\nhttps://Lamp.test/\n')).toEqual([
      {
        line: 1,
        key: '10-0-0-1-9102-metrics',
        address: 'http://10.0.0.1:9102/metrics',
        group: '',
        through: null,
        intervalSeconds: null,
        labels: {},
        problem: null,
      },
      {
        line: 4,
        key: 'lamp-test',
        address: 'https://Lamp.test/',
        group: '',
        through: null,
        intervalSeconds: null,
        labels: {},
        problem: null,
      },
    ]);
  });
  it('is fields in their usual order, or as the first line names them; others are labels', () => {
    expect(readList('lamp;http://a.test/;30')[0]).toMatchObject({ key: 'lamp', intervalSeconds: 30, problem: null });
    expect(readList('lamp;http://a.b.pod:9102/;;;seaward')[0]).toMatchObject({ through: 'seaward' });
    expect(readList('lamp;http://a.test/;;lights')[0]).toMatchObject({ group: 'lights', intervalSeconds: null });
    const [one, two] = readList('Address,Name,quay\n"http://a.test/",lamp,north\nhttp://b.test/,crane,');
    expect(one).toMatchObject({ line: 2, key: 'lamp', address: 'http://a.test/', labels: { quay: 'north' } });
    expect(two?.labels).toEqual({});
  });
  it('says of each line what is wrong with it', () => {
    const problems = readList(
      'lamp,http://a.test/,15\nlamp,http://b.test/,15\ncrane,b.test,15\nboat,http://c.test/,often\nA b,http://d.test/,15',
    ).map(({ problem }) => problem);
    expect(problems).toEqual([
      null,
      expect.stringContaining('twice'),
      expect.stringContaining('no address'),
      expect.stringContaining('no interval'),
      expect.stringContaining('no name'),
    ]);
    expect(readList('')).toEqual([]);
  });
});
