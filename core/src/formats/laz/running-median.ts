/** The median of the last five numbers or so, kept on the way as LASzip keeps it. */
export class RunningMedian {
  private readonly v = new Int32Array(5);
  private isHigh = true;

  get value(): number {
    return this.v[2]!;
  }

  add(value: number): void {
    const { v } = this;
    if (this.isHigh) {
      if (value < v[2]!) {
        v[4] = v[3]!;
        v[3] = v[2]!;
        if (value < v[0]!) {
          v[2] = v[1]!;
          v[1] = v[0]!;
          v[0] = value;
        } else if (value < v[1]!) {
          v[2] = v[1]!;
          v[1] = value;
        } else v[2] = value;
      } else {
        if (value < v[3]!) {
          v[4] = v[3]!;
          v[3] = value;
        } else v[4] = value;
        this.isHigh = false;
      }
    } else if (v[2]! < value) {
      v[0] = v[1]!;
      v[1] = v[2]!;
      if (v[4]! < value) {
        v[2] = v[3]!;
        v[3] = v[4]!;
        v[4] = value;
      } else if (v[3]! < value) {
        v[2] = v[3]!;
        v[3] = value;
      } else v[2] = value;
    } else {
      if (v[1]! < value) {
        v[0] = v[1]!;
        v[1] = value;
      } else v[0] = value;
      this.isHigh = true;
    }
  }
}
