package e2e

import (
	"context"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/reveal"
	"slowreveal/demo"
	"slowreveal/e2e/browser"
)

// inVariant shows the product as the variant has it that is called so, by the menu in the header.
func inVariant(name string) browser.Action {
	return chromedp.Steps(
		browser.Click(`//button[starts-with(@aria-label, "Variant: ")]`),
		browser.Click(`//*[@role="menuitem" and (normalize-space(.)="`+name+`" or normalize-space(.)="`+name+` ·")]`),
		chromedp.WaitVisible(`//button[@aria-label="Variant: `+name+`"]`),
		browser.Settled(),
	)
}

// One reveal serves three variants: the stage is switched between them, what a variant has nothing to do in takes no
// time, words of its own are said in it, and what is otherwise in one is said in Prepare. After each the stage is held
// against the core.
func TestAProductInVariants(t *testing.T) {
	s := newStand(t)
	m := demo.PumpB()
	p, err := s.authoring.CreateProject(context.Background(), "In variants", "dp-40-b.glb", m)
	require.NoError(t, err)
	r, err := s.authoring.CreateReveal(context.Background(), p.ID, demo.Teardown(m.Assembly))
	require.NoError(t, err)
	length := `document.querySelector('#script article:nth-of-type(5) p')?.textContent ?? ''`
	s.do(
		chromedp.Navigate(s.url+"/p/"+p.ID+"/direct/"+r.ID),
		browser.StageReady(),
		chromedp.WaitVisible(`//button[@aria-label="Variant: Standard"]`), // the reveal is for it
		find("heater"),
		chromedp.WaitVisible(`//div[@role="treeitem" and contains(@aria-label, "not in this variant")]`),
		chromedp.WaitVisible(`//article[starts-with(@aria-label, "Step 4")]//p[contains(., "takes no time there")]`),
	)
	require.Empty(t, eval[string](s, length))
	shot(s, "variant-standard")
	s.do(
		inVariant("Heated"),
		browser.Click(`//button[starts-with(@aria-label, "Go to step 4")]`), browser.Press("Through the shot"),
		browser.Settled(),
		chromedp.KeyEvent(".", chromedp.KeyModifiers(0)), browser.Settled(),
	)
	shot(s, "variant-heated")
	s.do(
		inVariant("Left-hand door"), browser.Press("My eye"),
		browser.Click(`//button[starts-with(@aria-label, "Go to step 2")]`), browser.Settled(),
	)
	shot(s, "variant-left")
	// Words of its own in a variant.
	words := chromedp.CSS(`textarea[aria-label="Title in Left-hand door"]`)
	s.do(
		browser.Click(words), chromedp.SendKeys(words, "Undo all four"),
		browser.Click(chromedp.CSS(`input[aria-label="Find a part"]`)), browser.Saved(), browser.Settled(),
	)
	doc, _ := s.document(r.ID)
	require.Len(t, doc.Steps[1].Wordings, 1)
	assert.Equal(t, reveal.Wording{Variant: "left-hand", Title: "Undo all four"}, doc.Steps[1].Wordings[0])

	// In Prepare: another variant, in which the display stands in for the start button and the hood is brass.
	s.do(
		browser.Press("Prepare"), browser.StageReady(),
		browser.Click(`//*[@role="radio" and starts-with(normalize-space(.), "Variants")]`),
		chromedp.WaitVisible(`//table[caption[contains(., "which variant")]]`),
		browser.Click(`//section[@aria-label="Variants"]//button[contains(., "Standard")]`), browser.Settled(),
		browser.Click(`//button[@aria-label="More about Standard"]`),
		browser.Click(`//*[@role="menuitem" and normalize-space(.)="Another one like it"]`), browser.Saved(),
		chromedp.WaitVisible(`//button[@aria-label="Variant: Standard, copy"]`), browser.Settled(),
		find("hood"), browser.Click(row("Hood", 1)), browser.Settled(),
		browser.Click(chromedp.CSS(`button[aria-label="Brass"]`)), browser.Saved(), browser.Settled(),
	)
	shot(s, "variant-prepare")
	a := s.assembly(p.ID)
	require.Len(t, a.Variants, 4)
	assert.Equal(t, "Brass", a.Variants[3].Finishes[0].Finish.Name)
	assert.Empty(t, a.Variants[0].Finishes, "the one that it is like is as it was")
	s.do(
		find("foot"),
		browser.Click(row("Foot", 1)),
		browser.Click(tool("Leave out")),
		browser.Saved(),
		browser.Settled(),
		chromedp.WaitVisible(`//section[starts-with(@aria-label, "In ")]//p[.="Not in it."]`),
		browser.Click(
			`//button[starts-with(@aria-label, "Foot, Standard, copy: not in it")]`,
		),
		browser.Saved(),
		browser.Settled(),
		chromedp.WaitVisible(tool("Leave out")),
		chromedp.KeyEvent("z", chromedp.KeyModifiers(chromedp.ModifierCtrl)),
		browser.Saved(),
		browser.Settled(),
		chromedp.WaitVisible(tool("Put back")),
		inVariant("All parts"),
	)
	shot(s, "variant-all")

	// In Release: a still in two variants, each of which says which it is; after an edit both are out of date, and made
	// again from the table.
	s.within(
		3*time.Minute,
		browser.Press("Release"),
		chromedp.WaitVisible(`//h2[text()="Outputs"]`),
		browser.Click(`//*[@role="radio" and normalize-space(.)="Stills"]`),
		enter("Width", "320"),
		enter("Height", "180"),
		browser.Click(
			`//label[normalize-space(.)="Heated"]`,
		),
		browser.Click(`//label[normalize-space(.)="Left-hand door"]`),
		browser.Click(tool("Make all 2")),
		chromedp.WaitVisible(
			`//section[@aria-label="Outputs by variant"]//button[contains(@aria-label, "Heated: made of")]`,
		),
		chromedp.WaitVisible(
			`//section[@aria-label="Outputs by variant"]//button[contains(@aria-label, "Left-hand door: made of")]`,
		),
	)
	shot(s, "variant-release")
	made, err := s.authoring.Outputs(context.Background(), p.ID)
	require.NoError(t, err)
	require.Len(t, made, 2)
	var titles []string
	for _, o := range made {
		titles = append(titles, o.Title)
	}
	assert.ElementsMatch(t, []string{"Service teardown, Heated", "Service teardown, Left-hand door"}, titles)
	s.within(
		3*time.Minute,
		browser.Press("Direct"),
		browser.StageReady(),
		browser.Click(
			`//button[starts-with(@aria-label, "Go to step 2")]`,
		),
		browser.Press("Mute"),
		browser.Saved(),
		browser.Settled(),
		browser.Press("Release"),
		browser.Click(`//button[contains(., "missing or out of date")]`),
		chromedp.WaitVisible(
			`//section[@aria-label="Outputs by variant"]//button[contains(@aria-label, "Heated: made of")]`,
		),
		chromedp.WaitVisible(
			`//section[@aria-label="Outputs by variant"]//button[contains(@aria-label, "Standard: made of")]`,
		),
	)
}

// shot keeps a picture of the page for whoever looks.
func shot(s *stand, name string) {
	if folder := os.Getenv("SLOWREVEAL_SHOTS"); folder != "" {
		require.NoError(s, browser.Within(s.ctx, time.Minute, browser.Picture(filepath.Join(folder, name+".png"))))
	}
}
