// awake keeps the screen on for as long as what calls it in an effect is shown, where the browser and its
// connection allow it; a page that was hidden asks again when it comes back.
export function awake(): () => void {
  let lock: WakeLockSentinel | undefined;
  let over = false;
  const take = async (): Promise<void> => {
    if (over || document.visibilityState !== 'visible') return;
    try {
      lock = await navigator.wakeLock?.request('screen');
      if (over) void lock?.release();
    } catch {
      // Not allowed here: the screen goes dark as it is set to.
    }
  };
  const again = () => void take();
  again();
  document.addEventListener('visibilitychange', again);
  return () => {
    over = true;
    document.removeEventListener('visibilitychange', again);
    void lock?.release();
  };
}
