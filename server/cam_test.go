package server_test

import (
	"context"
	"net/http"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"slowreveal/core/assembly"
	"slowreveal/demo"
	"slowreveal/server"
)

// The rows of a cam's table come from the shapes; a joint that cannot be led by one is told so.
func TestACamsTableIsReadFromTheShapes(t *testing.T) {
	s := newStand(t)
	m := demo.Applicator()
	p, err := s.authoring.CreateProject(context.Background(), "Applicator", "la-3.glb", m)
	require.NoError(t, err)
	code, text, _ := s.ask("GET", "/api/projects/"+p.ID+"/cam?joint=blade&by=main", nil)
	require.Equal(t, http.StatusOK, code, string(text))
	rows := read[server.CamTable](t, text).Rows
	require.Len(t, rows, 73)
	coupling := assembly.Coupling{
		ID: "cam", Name: "Cam", Kind: assembly.Cam, Joint: "blade", By: "main", Table: rows,
	}
	code, text = s.arrange(p.ID, 0, map[string]any{"do": "setJoints", "couplings": []assembly.Coupling{coupling}})
	assert.Equal(t, http.StatusOK, code, string(text))
	for query, why := range map[string]string{
		"joint=blade&by=nobody": "one of the joints is gone",
		"joint=gudgeon&by=main": "nothing on",
		"joint=main&by=blade":   "does not turn about one axis",
	} {
		code, text, _ = s.ask("GET", "/api/projects/"+p.ID+"/cam?"+query, nil)
		assert.Equal(t, http.StatusUnprocessableEntity, code)
		assert.Contains(t, read[server.Problem](t, text).Message, why)
	}
}
