// Preloaded into the server by the storm: its clock goes wrong by so many ms as it is told over the channel.
const Right = globalThis.Date;
let off = 0;
globalThis.Date = class extends Right {
  constructor(...given) {
    if (given.length === 0) super(Right.now() + off);
    else super(...given);
  }
  static now() {
    return Right.now() + off;
  }
};
process.on('message', (message) => {
  if (typeof message?.clockOff === 'number') off = message.clockOff;
});
process.channel?.unref();
