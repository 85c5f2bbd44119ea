/** The simulated kiln of Quern Hollow, line 2, in engineering terms: temperatures lag, load follows speed, batches count. */
export interface KilnState {
  bedTempSp: number;
  bedTempIn: number;
  bedTempMid: number;
  bedTempOut: number;
  bedTemp: number;
  steamPressSp: number;
  steamPress: number;
  steamFlow: number;
  moistureSp: number;
  moistureIn: number;
  moistureOut: number;
  fanSpeedSp: number;
  fanSpeed: number;
  fanTrim: number;
  zoneOffset: number;
  beltSpeedSp: number;
  beltSpeed: number;
  beltLoad: number;
  exhaustTemp: number;
  gasFlow: number;
  heatPower: number;
  ambientTemp: number;
  humidity: number;
  motorAmps: number;
  binLevel: number;
  filterPressure: number;
  vibration: number;
  oatTotal: number;
  rejects: number;
  batchNo: number;
  freeCount: number;
  energy: bigint;
  flowTotal: number;
  /** Nanoseconds. */
  dwellPreset: bigint;
  runTime: bigint;
  recipeName: string;
  operator: string;
  mode: number;
  fanCommand: boolean;
  beltCommand: boolean;
  steamCommand: boolean;
  lampTest: boolean;
  /** The belt creeps while this is on and the drive is off. */
  beltJog: boolean;
  /** Counted up by the panel side; the program watches it. */
  panelLife: number;
  guardOpen: boolean;
  /** Of the level transmitter of the bin. */
  binWireBroken: boolean;
  jam: boolean;
  seconds: number;
}

export function newKiln(): KilnState {
  return {
    bedTempSp: 104,
    bedTempIn: 61,
    bedTempMid: 96,
    bedTempOut: 98.2,
    bedTemp: 101.5,
    steamPressSp: 2.8,
    steamPress: 2.84,
    steamFlow: 412.5,
    moistureSp: 9.5,
    moistureIn: 13.7,
    moistureOut: 9.8,
    fanSpeedSp: 1420,
    fanSpeed: 1400,
    fanTrim: 42,
    zoneOffset: -7,
    beltSpeedSp: 0.45,
    beltSpeed: 0.44,
    beltLoad: 63,
    exhaustTemp: 71.25,
    gasFlow: 18.75,
    heatPower: 240.5,
    ambientTemp: -3.4,
    humidity: 61.2,
    motorAmps: 12.6,
    binLevel: 57,
    filterPressure: 12.75,
    vibration: 3.2,
    oatTotal: 1_284_310,
    rejects: 70_123,
    batchNo: 20_418,
    freeCount: 0,
    energy: 9_007_199_254_740_993n,
    flowTotal: 48_211.0625,
    dwellPreset: 2_500_000_000n,
    runTime: 86_400_000_000_001n,
    recipeName: 'THICK ROLLED 04',
    operator: 'M. Arden',
    mode: 2,
    fanCommand: true,
    beltCommand: true,
    steamCommand: true,
    lampTest: false,
    beltJog: false,
    panelLife: 1,
    guardOpen: false,
    binWireBroken: false,
    jam: false,
    seconds: 0,
  };
}

/** Moves the process on. @param dt seconds */
export function stepKiln(kiln: KilnState, dt: number): void {
  kiln.seconds += dt;
  const t = kiln.seconds;
  const lag = (value: number, target: number, seconds: number): number => value + (target - value) * (1 - Math.exp(-dt / seconds));
  const wave = (period: number, height: number): number => height * Math.sin((2 * Math.PI * t) / period);
  const heat = kiln.steamCommand ? kiln.bedTempSp : kiln.ambientTemp + 25;
  kiln.bedTempIn = lag(kiln.bedTempIn, heat * 0.6 + wave(23, 1.5), 15);
  kiln.bedTempMid = lag(kiln.bedTempMid, heat * 0.93 + wave(31, 1.2), 25);
  kiln.bedTempOut = lag(kiln.bedTempOut, heat * 0.95 + wave(41, 0.8), 30);
  kiln.bedTemp = lag(kiln.bedTemp, heat + wave(37, 0.9), 20);
  kiln.steamPress = lag(kiln.steamPress, kiln.steamCommand ? kiln.steamPressSp + wave(17, 0.05) : 0, 8);
  kiln.steamFlow = lag(kiln.steamFlow, kiln.steamPress * 147 + wave(13, 4), 5);
  kiln.moistureIn = 13.7 + wave(120, 0.6);
  kiln.moistureOut = lag(kiln.moistureOut, kiln.moistureIn - kiln.bedTemp * 0.039, 40);
  kiln.fanSpeed = lag(kiln.fanSpeed, kiln.fanCommand ? kiln.fanSpeedSp + wave(7, 6) : 0, 4);
  kiln.beltSpeed = lag(kiln.beltSpeed, kiln.beltCommand ? kiln.beltSpeedSp : kiln.beltJog ? 0.05 : 0, 2);
  kiln.beltLoad = lag(kiln.beltLoad, kiln.beltSpeed * 140 + wave(19, 3), 6);
  kiln.motorAmps = lag(kiln.motorAmps, 2.1 + kiln.beltLoad * 0.17, 2);
  kiln.exhaustTemp = lag(kiln.exhaustTemp, kiln.bedTemp * 0.7 + wave(29, 0.7), 18);
  kiln.gasFlow = lag(kiln.gasFlow, kiln.steamCommand ? kiln.bedTemp * 0.18 : 0, 6);
  kiln.heatPower = lag(kiln.heatPower, kiln.gasFlow * 12.9, 3);
  kiln.humidity = 61.2 + wave(300, 4);
  kiln.ambientTemp = -3.4 + wave(600, 1.5);
  kiln.binLevel = 57 + wave(90, 20);
  kiln.filterPressure = 12.75 + wave(45, 0.5);
  kiln.vibration = 3.2 + wave(11, 0.4) * (kiln.fanSpeed / 1420);
  kiln.oatTotal += kiln.beltSpeed * 3.1 * dt;
  kiln.rejects += kiln.beltSpeed * 0.04 * dt;
  kiln.batchNo = 20_418 + Math.floor(t / 60);
  kiln.freeCount += dt * 10;
  kiln.energy += BigInt(Math.round((kiln.heatPower * 1000 * dt) / 3600));
  kiln.flowTotal += (kiln.steamFlow * dt) / 3600;
  if (kiln.beltCommand) kiln.runTime += BigInt(Math.round(dt * 1e9));
}
