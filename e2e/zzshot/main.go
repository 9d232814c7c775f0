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
	ctx, cancel := browser.New(context.Background(), 1280, 800)
	defer cancel()
	shot := func(name string) browser.Action {
		return chromedp.Steps(browser.Settled(), browser.Picture(filepath.Join("/tmp/shots", name+".png")))
	}
	pump := `//a[contains(., "DP-40")]`
	os.MkdirAll("/tmp/shots", 0o755)
	if err := chromedp.Do(ctx); err != nil {
		panic(err)
	}
	err := browser.Within(ctx, 8*time.Minute,
		browser.Size(1280, 800),
		chromedp.Navigate("http://127.0.0.1:7750"),
		chromedp.WaitVisible(pump), chromedp.Click(pump), browser.StageReady(),
		browser.Press("Release"), chromedp.WaitVisible(`//h2[text()="Outputs"]`),
		chromedp.Click(`//label[contains(., "A title card before it")]`),
		chromedp.SendKeys(`//input[@aria-label="First card: text"]`, "Service teardown, and back together"),
		chromedp.Click(`//button[contains(., "A reveal after it")]`),
		chromedp.Click(`//label[contains(., "Runs backwards")]`),
		chromedp.Click(`//label[contains(., "Its own card")]`),
		browser.Settled(), shot("join1"),
		browser.Script(`document.querySelector("aside .scroll").scrollTo(0, 420), true`), browser.Settled(), shot("join2"),
		browser.Press("Make the film"),
		chromedp.WaitVisible(`//li[@data-output="running" and contains(., "left")]`), chromedp.Sleep(5*time.Second), shot("running"),
	)
	fmt.Println(err)
}
