export { type Maintenance, maintenanceOf } from './maintenance.ts';
export { marksOf, usedBy } from './marks.ts';
