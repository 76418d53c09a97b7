// Brings the page to life: the 3-D view from the data that the page carries, or the page of a
// watched campaign from its server.
import type { ViewData } from "./data";
import { element } from "./dom";
import { type Explore, explore } from "./explore";
import { LivePage } from "./live";
import { Viewer } from "./viewer";

declare global {
  interface Window {
    dunefield?: { viewer?: Viewer; live?: LivePage; explore?: Explore };
  }
}

function begin() {
  const live = document.getElementById("live");
  if (live) {
    document.body.classList.add("application");
    window.dunefield = { live: new LivePage(live, window.location.pathname) };
    return;
  }
  const explored = document.getElementById("explore");
  if (explored) {
    document.body.classList.add("application");
    explored.classList.add("explore");
    explore(explored, window.location.pathname).then((page) => {
      if (page) window.dunefield = { explore: page, viewer: page.viewer };
    });
    return;
  }
  const host = document.getElementById("view");
  const carried = document.getElementById("view-data");
  if (!host || !carried) return;
  try {
    const data = JSON.parse(carried.textContent ?? "") as ViewData;
    host.replaceChildren();
    window.dunefield = { viewer: new Viewer(host, data) };
  } catch (error) {
    host.replaceChildren(
      element("p", {}, `The 3-D view cannot be shown: ${(error as Error).message}`),
    );
  }
}

// The text is there first, the view after it.
requestAnimationFrame(() => setTimeout(begin, 0));
