// Plays a signal of the server: it rises from silence within two seconds, whatever was
// playing before; Stop, Esc, and leaving the page end it at once.
(function () {
  "use strict";

  const rise = 2000; // ms
  let audio = null;
  let ramp = 0;

  const player = () => document.querySelector(".player");
  function say(text, on) {
    const at = player();
    if (!at) return;
    at.classList.toggle("is-on", on);
    at.querySelector(".played").textContent = text;
  }
  function stop() {
    clearInterval(ramp);
    if (audio) audio.pause();
    audio = null;
    say("Not playing.", false);
  }
  async function play() {
    stop();
    const sound = new Audio(player().dataset.file);
    sound.volume = 0;
    audio = sound;
    say("Fetching it.", true);
    sound.addEventListener("ended", stop);
    try {
      await sound.play();
    } catch {
      if (audio === sound) {
        stop();
        say("It could not be played; fetch it as WAV instead.", false);
      }
      return;
    }
    if (audio !== sound) return sound.pause();
    const begun = performance.now();
    say("Rising.", true);
    ramp = setInterval(() => {
      const part = Math.min(1, (performance.now() - begun) / rise);
      sound.volume = part * part;
      if (part === 1) {
        clearInterval(ramp);
        say("Playing.", true);
      }
    }, 40);
  }

  document.addEventListener("click", (e) => {
    if (e.target.closest("#play")) play();
    if (e.target.closest("#stop")) stop();
  });
  document.addEventListener("keydown", (e) => { if (e.key === "Escape") stop(); });
  window.addEventListener("pagehide", stop);
})();
