/** What the modules under test expect of a page, where there is none. */
const style = { getPropertyValue: () => '#c7a384' };
Object.assign(globalThis, {
  window: {
    addEventListener: () => undefined,
    navigator: { userAgent: '', platform: '', maxTouchPoints: 0 },
  },
  document: { documentElement: {} },
  getComputedStyle: () => style,
});
