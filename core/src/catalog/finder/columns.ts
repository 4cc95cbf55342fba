/** What is known of each asset, a number a slot in arrays of their own: a condition or a count walks one of them. */
export class Columns {
  kind = new Uint8Array(0);
  source = new Uint16Array(0);
  domain = new Uint16Array(0);
  /** By which policies it is seen beside its domain. */
  opened = new Uint16Array(0);
  standing = new Uint8Array(0);
  /** 1 to 4; 0 where there is none. */
  level = new Uint8Array(0);
  priority = new Uint8Array(0);
  /** The higher the sooner it should be looked at: by priority, then by level. */
  urgency = new Uint8Array(0);
  described = new Uint8Array(0);
  gone = new Uint8Array(0);
  /** Numbers of sets. */
  classes = new Uint32Array(0);
  arrived = new Uint32Array(0);
  owners = new Uint32Array(0);
  stewards = new Uint32Array(0);
  custodians = new Uint32Array(0);
  experts = new Uint32Array(0);
  terms = new Uint32Array(0);
  tags = new Uint32Array(0);
  came = new Uint32Array(0);
  notices = new Uint32Array(0);
  name = new Uint32Array(0);
  /** Its type at the source; 0 where it has none. */
  type = new Uint16Array(0);
  /** When it was last asked for (-Infinity: never), and first seen; milliseconds since 1970. */
  asked = new Float64Array(0);
  created = new Float64Array(0);
  changed = new Float64Array(0);
  /** When it was certified, as long as that holds; -Infinity: it is not. */
  certified = new Float64Array(0);
  /** How often it was asked for at its source. */
  uses = new Uint32Array(0);
  /** How much room it takes, in bytes; -1 where its source does not say. */
  bytes = new Float64Array(0);
  /** The slot of what holds it; -1 at the top. */
  parent = new Int32Array(0);
  /** 1 where its key is that of what holds it, and its name. */
  below = new Uint8Array(0);
  position = new Int32Array(0);
  /** Assets directly below that are there now, and those of them that can hold others. */
  kids = new Uint32Array(0);
  holders = new Uint32Array(0);
  /** Its place in the order of all names within their sources. */
  rank = new Uint32Array(0);

  #room = 0;

  /** Makes room for so many slots. */
  reserve(slots: number): void {
    if (slots <= this.#room) return;
    this.#room = Math.max(1024, slots, Math.ceil(this.#room * 1.5));
    for (const [name, column] of Object.entries(this)) {
      const more = new (column.constructor as new (size: number) => Uint8Array)(this.#room);
      more.set(column as Uint8Array);
      (this as unknown as Record<string, Uint8Array>)[name] = more;
    }
  }
}
