/**
 * Quality of a value with its reason. Levels and status names follow OPC UA (IEC 62541-4, 7.39 StatusCode, and
 * IEC 62541-8 for data access; names from memory).
 */
export type QualityLevel = 'good' | 'uncertain' | 'bad';

const REASONS = {
  waiting: ['bad', 'Bad_WaitingForInitialData', 'not read yet'],
  silent: ['bad', 'Bad_NoCommunication', 'the device does not answer'],
  'link-down': ['bad', 'Bad_NotConnected', 'the link is not connected'],
  refused: ['bad', 'Bad_DeviceFailure', 'the device refuses the request'],
  malformed: ['bad', 'Bad_DataEncodingInvalid', 'the reply was not a valid reply to the request'],
  'not-a-number': ['bad', 'Bad_DataEncodingInvalid', 'the bytes are not a number'],
  'not-available': ['bad', 'Bad_DataUnavailable', 'the device says that it has no value'],
  'input-bad': ['bad', 'Bad_DependentValueChanged', 'a value that it is calculated from is bad'],
  'broken-wire': ['bad', 'Bad_SensorFailure', 'the wire is broken'],
  'short-circuit': ['bad', 'Bad_SensorFailure', 'the sensor tells a fault by too large a current'],
  'scale-limits': ['bad', 'Bad_OutOfRange', 'the scale has no value for it'],
  'no-result': ['bad', 'Bad_OutOfRange', 'its expression has no result'],
  settings: ['bad', 'Bad_ConfigurationError', 'the settings of the tag do not fit together'],
  'server-silent': ['bad', 'Bad_NoCommunication', 'the Mill Latch server does not answer'],
  aged: ['bad', 'Bad_NoCommunication', 'no fresh reading'],
  offline: ['bad', 'Bad_OutOfService', 'the device is not online'],
  'out-of-range': ['uncertain', 'Uncertain_EngineeringUnitsExceeded', 'outside the expected range'],
  'under-range': ['uncertain', 'Uncertain_SensorNotAccurate', 'below what the transmitter measures'],
  'over-range': ['uncertain', 'Uncertain_SensorNotAccurate', 'above what the transmitter measures'],
  implausible: ['uncertain', 'Uncertain', 'implausible'],
  rounded: ['uncertain', 'Uncertain_SubNormal', 'more digits than a scaled value can keep'],
  stopped: ['uncertain', 'Uncertain_LastUsableValue', 'the controller may have stopped'],
  overdue: ['uncertain', 'Uncertain_LastUsableValue', 'read too seldom, the bus is overloaded'],
  doubted: ['uncertain', 'Uncertain', 'its source is not sure of it'],
  torn: ['uncertain', 'Uncertain_SubNormal', 'read in several requests, possibly torn'],
} as const satisfies Record<string, readonly [QualityLevel, string, string]>;

export type QualityReason = keyof typeof REASONS;

export interface Quality {
  readonly level: QualityLevel;
  readonly reason: QualityReason | null;
  /** What was seen, such as the exception a device answered with. */
  readonly detail?: string;
}

export const GOOD: Quality = { level: 'good', reason: null };

export function qualityOf(reason: QualityReason, detail?: string): Quality {
  return detail === undefined ? { level: REASONS[reason][0], reason } : { level: REASONS[reason][0], reason, detail };
}

/** The reason in words, with what was seen. */
export function qualityInWords(quality: Quality): string {
  if (quality.reason === null) return 'good';
  const words = REASONS[quality.reason][2];
  return quality.detail ? `${words}: ${quality.detail}` : words;
}

/** The status name of OPC UA. */
export function statusName(quality: Quality): string {
  return quality.reason === null ? 'Good' : REASONS[quality.reason][1];
}
