// Waits until a page looks as it will stay: fonts are there, what moves to an end is at its end, and
// what goes on for ever is where it begins.
async function settle() {
  const frame = () => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)));
  const calm = () => {
    let moved = 0;
    for (const animation of document.getAnimations ? document.getAnimations() : []) {
      const timing = animation.effect && animation.effect.getComputedTiming();
      if (!timing || animation.timeline !== document.timeline || animation.playState !== "running") continue;
      moved += 1;
      if (Number.isFinite(Number(timing.endTime))) {
        try { animation.finish(); } catch { /* one that can't be ended goes on */ }
      } else {
        animation.pause();
        animation.currentTime = 0;
      }
    }
    return moved;
  };
  // A page that loads itself again has nothing in it for a moment.
  const isEmpty = () => !document.documentElement || (!document.body && document.head);
  for (let tries = 0; isEmpty() && tries < 100; tries += 1) {
    await new Promise((done) => setTimeout(done, 50));
  }
  // A font that never comes: browsers show another after three seconds.
  await Promise.race([document.fonts.ready, new Promise((done) => setTimeout(done, 5000))]);
  await frame();
  if (calm()) await frame();
  return 1;
}
