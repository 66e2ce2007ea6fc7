declare module 'music-tempo' {
  export default class MusicTempo {
    constructor(samples: ArrayLike<number>, options?: { hopSize?: number; timeStep?: number });
    readonly tempo: number | string;
  }
}
