/** Status codes of OPC UA (IEC 62541-4, 7.39): the two top bits are the severity, and say what a value is worth. */

export type Severity = 'good' | 'uncertain' | 'bad';

export function severityOf(code: number): Severity {
  const top = code >>> 30;
  return top === 0 ? 'good' : top === 1 ? 'uncertain' : 'bad';
}

/** What a code means for the person before the screen, with what to do; the name itself where there is nothing to add. */
export function statusInWords(name: string): { readonly message: string; readonly remedy?: string } {
  const known = WORDS[name];
  return known ? { message: `${known[0]} (${name}).`, ...(known[1] ? { remedy: known[1] } : {}) } : { message: `The server says ${name}.` };
}

const WORDS: Readonly<Record<string, readonly [message: string, remedy?: string]>> = {
  BadNodeIdUnknown: ['The server has no such node', 'Browse the server and look for it: it may have been renamed or removed.'],
  BadNodeIdInvalid: ['The node id is written wrongly', 'Copy it from the server.'],
  BadNotReadable: ['The node cannot be read'],
  BadNotWritable: ['The node cannot be written', 'Set the access of the tag to R.'],
  BadUserAccessDenied: ['This user may not do that', 'Sign in as another user, or have the right given to this one.'],
  BadTypeMismatch: ['The value has another type than the node'],
  BadOutOfRange: ['The value is outside what the node takes'],
  BadIndexRangeNoData: ['The array has no such element', 'It may have become shorter.'],
  BadNoCommunication: ['The server has no connection to the controller behind it', 'Check that connection in the server.'],
  BadWaitingForInitialData: ['The server waits for the first value'],
  BadSensorFailure: ['The sensor has failed'],
  BadOutOfService: ['The source is out of service'],
  BadDeviceFailure: ['The device behind the server has failed'],
  BadNotConnected: ['The source is not connected'],
  BadSessionIdInvalid: ['The session is over'],
  BadSubscriptionIdInvalid: ['The subscription is over'],
  BadTooManySessions: ['The server takes no more sessions', 'Close other programs that are signed in to it.'],
  BadTooManySubscriptions: ['The server takes no more subscriptions'],
  BadTooManyMonitoredItems: ['The server watches no more nodes', 'Observe fewer nodes, or raise the limit of the server.'],
  BadTimeout: ['The server has not answered in time'],
  BadCertificateUntrusted: ['The server does not trust our certificate', 'Accept it in the server: it lies among the rejected ones.'],
  BadSecurityChecksFailed: [
    'The server has refused the security of the connection',
    'Accept our certificate in the server, and compare policy and mode.',
  ],
  BadCertificateTimeInvalid: ['A certificate is not valid now', 'Compare the clocks of both machines, and when the certificates end.'],
  BadCertificateUriInvalid: ['The address in a certificate is another one'],
  BadIdentityTokenRejected: ['The server does not take this user', 'Check name and password.'],
  BadIdentityTokenInvalid: ['The server does not take this way to sign in', 'Choose another one in the settings of the link.'],
  BadSecurityPolicyRejected: ['The server does not take this security policy', 'Choose another one in the settings of the link.'],
  UncertainLastUsableValue: ['It is the last value that the source had'],
  UncertainInitialValue: ['It is an initial value'],
  UncertainSensorNotAccurate: ['The sensor is not accurate'],
  UncertainSubNormal: ['It comes from fewer sources than it should'],
};
