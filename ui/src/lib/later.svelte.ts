// Parts that come once the first page stands, or as soon as somebody wants one of them.
type Parts = typeof import('../parts/later');
let parts = $state.raw<Parts>();

export const later = {
  get parts() {
    return parts;
  },
};

export async function fetchLater(): Promise<void> {
  parts ??= await import('../parts/later');
  document.documentElement.dataset.later = 'here';
}
