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
	pump := `//a[contains(., "DP-40")]`
	if err := chromedp.Do(ctx); err != nil {
		return err
	}
	return browser.Within(ctx, 3*time.Minute,
		browser.Size(1280, 800),
		chromedp.Navigate(address),
		chromedp.WaitVisible(pump), shot("projects"),
		chromedp.Click(pump), browser.StageReady(), shot("direct"),
		chromedp.Click(`//button[starts-with(@aria-label, "Go to step 2")]`),
		chromedp.Click(`(//div[@data-cue and contains(@aria-label, "Unscrew 16")])[1]`), shot("direct-cue"),
		browser.Press("Through the shot"), shot("direct-shot"),
		browser.Press("Prepare"), browser.StageReady(), shot("prepare"),
		browser.Press("Release"), chromedp.WaitVisible(`//h2[text()="Outputs"]`), shot("release"),
	)
}
