/** Who works at the Skerrivale Harbour Authority, and which team owns which namespace, in whichever cluster. */
export const TEAM_OF: Readonly<Record<string, string>> = {
  berths: 'berthing',
  'berths-batch': 'berthing',
  ticketing: 'ferries',
  boarding: 'ferries',
  pilotage: 'pilotage',
  tides: 'tides',
  manifests: 'customs',
  'crew-rota': 'crew',
  'yard-cranes': 'yard',
  'pier-system': 'platform',
  'pier-ingress': 'platform',
  'pier-data': 'platform',
};

/** The crew owns by name or by the label its namespaces bear. */
const byName = (...namespaces: string[]) => namespaces.map((namespace) => ({ by: 'name', namespace }) as const);
const byLabel = (team: string) => [{ by: 'label', key: 'team', is: team }] as const;
const team = (name: string, members: string[], owns: readonly object[]) => ({
  name,
  email: `${name.toLowerCase()}@skerrivale.test`,
  members,
  owns,
});
export const TEAMS = [
  team('Berthing', [], byName('berths', 'berths-batch')),
  team('Ferries', ['tove'], byName('ticketing', 'boarding')),
  team('Pilotage', [], byName('pilotage')),
  team('Tides', ['jonas'], byName('tides')),
  team('Customs', [], byLabel('customs')),
  team('Crew', [], byLabel('crew')),
  team('Yard', [], byLabel('yard')),
  team('Platform', ['maren', 'idris'], byLabel('platform')),
];

export const PEOPLE = [
  { name: 'maren', role: 'administrator', does: 'platform engineer, administrator' },
  { name: 'idris', role: 'member', does: 'platform, on call: operates everything' },
  { name: 'tove', role: 'member', does: 'Ferries developer: sees what Ferries owns' },
  { name: 'jonas', role: 'member', does: 'Tides developer: sees what Tides owns' },
  { name: 'lund', role: 'member', does: 'capacity lead, reads everything' },
] as const;
export const GRANTS = [
  { person: 'idris', may: 'operate' },
  { person: 'lund', may: 'read' },
] as const;
