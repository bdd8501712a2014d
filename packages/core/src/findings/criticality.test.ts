import { describe, expect, it } from 'vitest';
import { CRITICALITIES, criticalities, type Finding, SEVERITIES, weighed } from './index.ts';

describe('criticality', () => {
  const told = criticalities({
    label: 'harbour/weight',
    places: [
      { namespace: 'tides', workload: null, is: 'trial' },
      { namespace: 'tides', workload: 'deployment:model', is: 'critical' },
    ],
  });
  const space = (name: string, weight?: string) => ({ name, labels: weight ? { 'harbour/weight': weight } : {} });
  const work = (key: string, weight?: string) => ({ key, labels: weight ? { 'harbour/weight': weight } : {} });
  it.each([
    ['nobody says anything', space('piers'), null, 'ordinary'],
    ['by label', space('piers', 'critical'), null, 'critical'],
    ['a person before the label', space('tides', 'critical'), null, 'trial'],
    ['of its namespace', space('piers', 'critical'), work('deployment:front'), 'critical'],
    ['the workload before its namespace', space('piers', 'critical'), work('deployment:front', 'trial'), 'trial'],
    ['a person on the workload before its label', space('tides'), work('deployment:model', 'trial'), 'critical'],
    [
      'its own label before a person on its namespace',
      space('tides'),
      work('deployment:other', 'ordinary'),
      'ordinary',
    ],
    ['a word that is none', space('piers', 'very'), work('deployment:front', 'toString'), 'ordinary'],
  ] as const)('%s', (_name, namespace, workload, is) => {
    expect(told(namespace, workload).is).toBe(is);
  });
  it('is told with who says so', () => {
    expect(told(space('piers'), null).because).toBeNull();
    expect(told(space('piers', 'critical'), work('deployment:front')).because).toBe(
      'by label harbour/weight of its namespace',
    );
    expect(told(space('tides'), work('deployment:model')).because).toBe('as was said of it');
  });
});

it('severity: critical where nobody serves, and in a critical place; a trial wakes nobody; nothing is made graver', () => {
  const finding = (severity: Finding['severity']): Finding => ({
    code: 'notReady',
    severity,
    reason: 'r',
    evidence: 'e',
    since: 1,
    nextStep: 'n',
  });
  const table = CRITICALITIES.flatMap((criticality) =>
    [true, false].flatMap((serves) =>
      SEVERITIES.map((severity) => [
        `${criticality} ${serves ? 'serves' : 'alone'} ${severity}`,
        weighed([finding(severity)], { serves, criticality })[0]!.severity,
      ]),
    ),
  );
  expect(Object.fromEntries(table)).toEqual({
    'critical serves critical': 'critical',
    'critical serves warning': 'warning',
    'critical alone critical': 'critical',
    'critical alone warning': 'warning',
    'ordinary serves critical': 'warning',
    'ordinary serves warning': 'warning',
    'ordinary alone critical': 'critical',
    'ordinary alone warning': 'warning',
    'trial serves critical': 'warning',
    'trial serves warning': 'warning',
    'trial alone critical': 'warning',
    'trial alone warning': 'warning',
  });
});
