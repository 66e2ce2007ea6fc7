/** The channels of a loop on a real interface: what goes out in this block, and what came in for it. */
export interface LiveWay {
  /** one channel, or left and right; what is written is added */
  out: Float64Array[];
  back: Float64Array[];
}

/** A real interface, as devices that leave the computer see it. */
export interface LivePorts {
  /** The way from a send to a return, by the names of the ports; null where either is not connected. */
  way(send: string, back: string): LiveWay | null;
}
