// A script that breaks off on its way would leave an empty page: the page is fetched anew, a few times, and
// then says so.
(() => {
  const COUNT = 'dart-loop.again';
  const MOST = 4;
  const tries = Number(sessionStorage.getItem(COUNT));
  let isSaid = false;
  addEventListener(
    'error',
    ({ target }) => {
      if (!(target instanceof HTMLScriptElement)) return;
      if (tries < MOST) {
        sessionStorage.setItem(COUNT, String(tries + 1));
        setTimeout(() => location.reload(), 500 * (tries + 1));
      } else if (!isSaid) {
        isSaid = true;
        sessionStorage.removeItem(COUNT);
        const words = document.createElement('p');
        words.textContent =
          'Dart Loop could not be loaded: a part of it did not arrive. Please load the page again.';
        document.body.prepend(words);
      }
    },
    true,
  );
  // Once all of it has arrived it counts from the beginning.
  addEventListener('load', () => setTimeout(() => sessionStorage.removeItem(COUNT), 10_000));
})();
