package main

import (
	"bytes"
	"context"
	"image"
	"image/color"
	"image/draw"
	"image/png"
	"os"
	"path/filepath"

	"github.com/chromedp/chromedp"

	"slowreveal/core/film"
	"slowreveal/demo"
	"slowreveal/e2e/browser"
	"slowreveal/paper"
	"slowreveal/paper/manual"
	"slowreveal/paper/sheet"
	outputs "slowreveal/release"
)

// onPaper draws the example's sheet with a page of its manual beside it, and opens its client page from a folder.
func onPaper(ctx context.Context, folder string, shot func(string) browser.Action) error {
	m := demo.Pump()
	doc := demo.Teardown(m.Assembly)
	s := paper.NewSubject(m, film.Compile(m.Assembly, doc))
	fonts, err := paper.NewFonts()
	if err != nil {
		return err
	}
	set := sheet.Settings{
		Title: sheet.TitleBlock{
			Owner:    "Halden Dosing",
			Number:   "HD-0040-12",
			Creator:  "I. Moen",
			Date:     "2026-11-28",
			Revision: "B",
		},
	}
	var steps manual.Settings
	if err := set.Fill(); err != nil {
		return err
	}
	if err := steps.Fill(); err != nil {
		return err
	}
	drawn, err := sheet.Draw(ctx, s, fonts, set, nil)
	if err != nil {
		return err
	}
	content, err := manual.Collect(ctx, s, steps)
	if err != nil {
		return err
	}
	pages, err := content.Draw(fonts)
	if err != nil {
		return err
	}
	if err := beside(filepath.Join(folder, "paper.png"), drawn.Page.Picture(1130), pages[3].Picture(565)); err != nil {
		return err
	}
	w, err := outputs.Plan(outputs.Settings{Kind: outputs.Page}, m, doc, nil)
	if err != nil {
		return err
	}
	temporary, err := os.MkdirTemp("", "slowreveal-client-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(temporary)
	page := filepath.Join(temporary, "client.html")
	if err := w.Make(ctx, page, nil); err != nil {
		return err
	}
	drawnNow := browser.Until(`document.querySelector('canvas')?.dataset.drawn === 'true'`)
	return chromedp.Do(
		ctx,
		browser.Size(1280, 800),
		chromedp.Navigate("file://"+page),
		drawnNow,
		browser.Click(`//nav//li[7]/button`),
		drawnNow,
		browser.Script(`(() => {
			const moment = document.querySelector('.track input')
			Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set.call(moment, '34500000')
			moment.dispatchEvent(new Event('input', { bubbles: true }))
			return true
		})()`),
		browser.Click(`//aside//tbody/tr[17]`),
		drawnNow,
		shot("client"),
	)
}

// beside writes two pictures beside one another.
func beside(file string, left, right image.Image) error {
	const margin = 24
	l, r := left.Bounds().Size(), right.Bounds().Size()
	out := image.NewRGBA(image.Rect(0, 0, l.X+r.X+3*margin, max(l.Y, r.Y)+2*margin))
	draw.Draw(out, out.Rect, image.NewUniform(color.RGBA{0xe4, 0xde, 0xd1, 0xff}), image.Point{}, draw.Src)
	for _, p := range []struct {
		img image.Image
		x   int
	}{{left, margin}, {right, l.X + 2*margin}} {
		box := image.Rectangle{Max: p.img.Bounds().Size()}.Add(image.Pt(p.x, margin))
		draw.Draw(out, box, image.White, image.Point{}, draw.Src)
		draw.Draw(out, box, p.img, p.img.Bounds().Min, draw.Over)
	}
	var b bytes.Buffer
	if err := png.Encode(&b, out); err != nil {
		return err
	}
	return os.WriteFile(file, b.Bytes(), 0o644)
}
