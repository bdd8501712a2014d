/** Nobody waits for the answer any more. */
export class AskerLeft extends Error {
  constructor() {
    super('who asked has left');
  }
}
