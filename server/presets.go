package server

import (
	"encoding/json"
	"fmt"
	"net/http"
	"strings"

	"github.com/gin-gonic/gin"

	"slowreveal/release"
	"slowreveal/store"
)

func (s *Server) presetRoutes() []route {
	return []route{
		get("/projects/{id}/presets", "listPresets", s.listPresets).gives([]store.Preset{}).
			says("Sets of outputs that are ordered together."),
		post("/projects/{id}/presets", "savePreset", s.savePreset).takes(NewPreset{}).makes(store.Preset{}).
			says("Keeps a set of outputs under a name; one of the same name is replaced."),
		del("/presets/{id}", "deletePreset", s.deletePreset).
			says("Forgets a set of outputs."),
	}
}

// NewPreset asks for a set of outputs to be kept.
type NewPreset struct {
	Name    string             `json:"name"`
	Outputs []release.Settings `json:"outputs"`
}

func (s *Server) listPresets(c *gin.Context) {
	if key, ok := id(c, "id"); ok {
		list, err := s.store.Presets(c.Request.Context(), key)
		answer(c, http.StatusOK, list, err)
	}
}

func (s *Server) savePreset(c *gin.Context) {
	key, ok := id(c, "id")
	var p NewPreset
	if !ok || !read(c, &p) {
		return
	}
	p.Name = strings.TrimSpace(p.Name)
	if p.Name == "" || len(p.Name) > release.MaxName || len(p.Outputs) == 0 || len(p.Outputs) > maxOrder {
		refuse(
			c,
			http.StatusUnprocessableEntity,
			"preset",
			"a set of outputs needs a name and between 1 and 50 outputs",
		)
		return
	}
	for i := range p.Outputs {
		if err := p.Outputs[i].Check(); err != nil {
			refuse(c, http.StatusUnprocessableEntity, "preset", fmt.Sprintf("output %d of the set: %v", i+1, err))
			return
		}
	}
	text, err := json.Marshal(p.Outputs)
	if err != nil {
		fail(c, err)
		return
	}
	saved, err := s.store.SavePreset(
		c.Request.Context(),
		store.Preset{ProjectID: key, Name: p.Name, Settings: store.RawText(text)},
	)
	answer(c, http.StatusCreated, saved, err)
}

func (s *Server) deletePreset(c *gin.Context) {
	if key, ok := id(c, "id"); ok {
		done(c, s.store.DeletePreset(c.Request.Context(), key))
	}
}
