// Command screenshots takes the pictures of docs/screenshots from a running
// demo server: `go run ./e2e/screenshots http://127.0.0.1:7741 docs/screenshots`.
package main

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"slowreveal/e2e/browser"
)

func main() {
	if len(os.Args) != 3 {
		fmt.Fprintln(os.Stderr, "usage: screenshots ADDRESS FOLDER")
		os.Exit(2)
	}
	if err := run(os.Args[1], os.Args[2]); err != nil {
		fmt.Fprintln(os.Stderr, "screenshots:", err)
		os.Exit(1)
	}
}

func run(address, folder string) error {
	ctx, cancel := browser.New(context.Background(), 1280, 800)
	defer cancel()
	shot := func(name string) browser.Action {
		return chromedp.Steps(browser.Settled(), browser.Picture(filepath.Join(folder, name+".png")))
	}
	pump := `//a[contains(., "DP-40") and not(contains(., "revision B"))]`
	if err := chromedp.Do(ctx); err != nil {
		return err
	}
	if err := onPaper(ctx, folder, func(name string) browser.Action {
		return browser.Picture(filepath.Join(folder, name+".png"))
	}); err != nil {
		return err
	}
	search := chromedp.CSS(`input[aria-label="Find a part"]`)
	return browser.Within(
		ctx,
		5*time.Minute,
		browser.Size(1280, 800),
		chromedp.Navigate(address),
		chromedp.WaitVisible(pump),
		browser.Until(`[...document.images].every((i) => i.complete && i.naturalWidth > 0)`),
		shot("projects"),
		browser.Click(pump),
		browser.StageReady(),
		shot("direct"),
		browser.Click(`//button[starts-with(@aria-label, "Go to step 2")]`),
		browser.Click(`(//div[@data-cue and contains(@aria-label, "Unscrew 16")])[1]`),
		shot("direct-cue"),
		browser.Click(`//button[starts-with(@aria-label, "Go to step 7")]`),
		browser.Press("Through the shot"),
		shot("direct-shot"),
		browser.Press("My eye"),
		browser.Click(`//button[starts-with(@aria-label, "Go to step 3")]`),
		browser.Click(search),
		chromedp.SendKeys(search, "rotor cover"),
		browser.Click(`//div[@role="treeitem"][span[normalize-space(.)="Rotor cover"]]`),
		browser.Click(
			`//button[starts-with(@aria-label, "Go to step 8")]`,
		),
		browser.Press("Through the shot"),
		chromedp.KeyEvent(kb.ArrowLeft, chromedp.KeyModifiers(chromedp.ModifierShift)),
		chromedp.WaitVisible(`//div[@aria-label="Notes"]//span`),
		shot("direct-notes"),
		browser.Press("My eye"),
		browser.Press("Prepare"),
		browser.StageReady(),
		chromedp.WaitVisible(`//section[@aria-label="Part sets"]//button[contains(., "Screws")]`),
		shot("prepare"),
		browser.Click(search),
		chromedp.SendKeys(search, "cover screw"),
		browser.Click(`(//div[@role="treeitem"][span[contains(., "Cover screw")]])[1]`),
		chromedp.WaitVisible(`//b[contains(., "Seems to be")]`),
		shot("prepare-part"),
		browser.Click(
			`//nav[@aria-label="Phases"]//a[starts-with(., "Proof")]`,
		),
		browser.Until(
			`/ checks$/.test(document.querySelector('[aria-label=Findings] [role=status]')?.textContent ?? '')`,
		),
		browser.Click(
			`//button[@data-finding="hidden"]`,
		),
		browser.Until(`document.querySelector('article img')?.complete`),
		shot("proof"),
		browser.Press("Release"),
		chromedp.WaitVisible(`//h2[text()="Outputs"]`),
		release(shot),
		planned(shot),
		firstFilm(shot),
		mechanism(address, shot),
		variants(address, shot),
	)
}

// variants shows the pump's revision B as one of its variants.
func variants(address string, shot func(string) browser.Action) browser.Action {
	return chromedp.Steps(
		chromedp.Navigate(address),
		browser.Click(`//a[contains(., "revision B")]`),
		browser.StageReady(),
		browser.Press("Prepare"),
		browser.StageReady(),
		browser.Click(`//*[@role="radio" and starts-with(normalize-space(.), "Variants")]`),
		browser.Click(`//section[@aria-label="Variants"]//button[contains(., "Heated")]`),
		browser.Settled(),
		browser.Click(`//table//button[normalize-space(.)="Heater"]`),
		shot("variants"),
	)
}

// mechanism tries out a joint of the applicator, and shows what drives it.
func mechanism(address string, shot func(string) browser.Action) browser.Action {
	return chromedp.Steps(
		chromedp.Navigate(address),
		browser.Click(`//a[contains(., "LA-3")]`),
		browser.StageReady(),
		browser.Click(`//button[starts-with(@aria-label, "Go to step 3")]`),
		chromedp.KeyEvent(kb.ArrowRight, chromedp.KeyModifiers(chromedp.ModifierShift)),
		browser.Click(`(//div[@data-cue and contains(@aria-label, "Drive 36")])[1]`),
		browser.Press("Through the shot"),
		shot("driven"),
		browser.Press("My eye"),
		browser.Press("Prepare"),
		browser.StageReady(),
		browser.Click(`//*[@role="radio" and starts-with(normalize-space(.), "Joints")]`),
		browser.Click(
			`//section[@aria-label="Joints"]//button[contains(., "Rocker arm") and contains(., "turns on Frame")]`,
		),
		browser.Click(chromedp.CSS(`input[aria-label="Try the value"]`)),
		chromedp.KeyEvent("a", chromedp.KeyModifiers(chromedp.ModifierCtrl)),
		chromedp.KeyEvent("20"+kb.Enter),
		chromedp.WaitVisible(`//dl[@aria-label="What follows"]`),
		shot("joints"),
	)
}

// planned plans the teardown of the empty reveal, takes all apart at once, and leaves it as it was.
func planned(shot func(string) browser.Action) browser.Action {
	return chromedp.Steps(
		browser.Click(
			`//header//button[contains(., "Service teardown")]`,
		),
		browser.Click(`//div[@role="menuitem"][normalize-space(.)="First reveal"]`),
		browser.Press("Direct"),
		browser.StageReady(),
		browser.Press("Plan a teardown"),
		browser.Until(
			`/^\d+ moves of/.test(document.querySelector('[aria-label="Teardown plan"] [role=status]')?.textContent ?? '')`,
		),
		browser.Settled(),
		browser.Press("All at once"),
		browser.Settled(),
		chromedp.Focus(chromedp.CSS(`input[aria-label="How far apart"]`)),
		chromedp.KeyEvent(kb.End),
		browser.Settled(),
		shot("plan"),
		browser.Click(chromedp.CSS(`button[aria-label="Leave the plan"]`)),
		browser.StageReady(),
	)
}

// release gathers a client pack and takes pictures while it is made.
func release(shot func(string) browser.Action) browser.Action {
	return chromedp.Steps(
		browser.Script(smallFilm),
		chromedp.WaitVisible(chromedp.CSS(`[data-output="done"]`)),
		browser.Press("Stills"),
		browser.Press("Every step’s end"),
		browser.Click(`//label[contains(., "Edges")]`),
		browser.Click(`//label[contains(., "Depth")]`),
		browser.Press("Add to a set"),
		browser.Settled(),
		browser.Script(`document.querySelector("aside .scroll").scrollTo(0, 9999), true`),
		shot("release-set"),
		browser.Press("GLB"),
		browser.Press("Make it"),
		chromedp.WaitVisible(`//li[@data-output="done" and contains(., "GLB")]`),
		browser.Press("Film"),
		browser.Press("Make the film"),
		chromedp.WaitVisible(`//li[@data-output="running" and contains(., "left")]//img`),
		chromedp.Sleep(4*time.Second),
		shot("release"),
		browser.Press("Stop"),
		chromedp.WaitNotPresent(chromedp.CSS(`[data-output="running"]`)),
	)
}

// firstFilm makes a film of the empty reveal as docs/first-film.md says.
func firstFilm(shot func(string) browser.Action) browser.Action {
	row := func(name string) browser.Action {
		return chromedp.Steps(
			browser.Click(fmt.Sprintf(`(//div[@role="treeitem"][span[normalize-space(.)=%q]])[1]`, name)),
			browser.Settled(),
		)
	}
	key := func(k string) browser.Action {
		return chromedp.Steps(chromedp.KeyEvent(k), browser.Settled(), browser.Saved())
	}
	return chromedp.Steps(
		browser.Click(
			`//div[@role="treeitem"][span[normalize-space(.)="Pump head"]]/button`,
		),
		row("Cover screw M3 × 12"),
		key("a"),
		browser.Settled(),
		shot("first-picked"),
		key("u"),
		browser.Press("then straight out"),
		browser.Settled(),
		key("."),
		row("Rotor cover"),
		key("p"),
		key("f"),
		key("."),
		key("z"),
		key("s"),
		shot("first-directed"),
		browser.Press("Release"),
		chromedp.WaitVisible(`//h2[text()="Outputs"]`),
		browser.Script(smallFilm),
		chromedp.WaitVisible(`//li[@data-output="done"]//video | //li[@data-output="done"]`),
		browser.Settled(),
		shot("first-film"),
	)
}

// smallFilm orders a film that is ready soon.
const smallFilm = `fetch('/api/reveals/' + location.pathname.split('/').pop() + '/outputs', {
	method: 'POST', headers: { 'Content-Type': 'application/json' },
	body: JSON.stringify({ outputs: [{ width: 480, height: 270, rate: 24, captions: true, purpose: 'draft' }], by: 'Ines' }),
}).then(r => r.ok)`
