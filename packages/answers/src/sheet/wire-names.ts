/** Parts of an object's definition as the cluster API has them: what one would change, to be taken to where it is defined. */

const container = (name: string, rows: readonly string[]): string =>
  [
    'spec:',
    '  template:',
    '    spec:',
    '      containers:',
    `        - name: ${name}`,
    '          resources:',
    ...rows.map((row) => `            ${row}`),
  ].join('\n');

export const limitChange = (name: string, memory: string): string =>
  container(name, ['limits:', `  memory: ${memory}`]);
export const requestChange = (name: string, amounts: { readonly cpu?: string; readonly memory?: string }): string =>
  container(name, [
    'requests:',
    ...(amounts.cpu === undefined ? [] : [`  cpu: ${amounts.cpu}`]),
    ...(amounts.memory === undefined ? [] : [`  memory: ${amounts.memory}`]),
  ]);
export const scalerChange = (most: number): string => `spec:\n  maxReplicas: ${most}`;
export const quotaChange = (resource: string, hard: string): string => `spec:\n  hard:\n    ${resource}: "${hard}"`;
export const claimChange = (size: string): string => `spec:\n  resources:\n    requests:\n      storage: ${size}`;
