// Set when the server no longer lets this device in, so that the page asks for the PIN.
export const shutOut = $state({ value: false });
