export { type Accessory, behind, findAccessory } from './accessories.ts';
export { askedPods } from './askedPods.ts';
export { counterpart, find, type MeasuredObject } from './measured.ts';
export { scaledPods } from './scaledFlows.ts';
export { accessorySheet, type SheetInput, usageSheet } from './sheet.ts';
export { measuredPlace, placeOfPods, rateOver } from './sheetMeasures.ts';
