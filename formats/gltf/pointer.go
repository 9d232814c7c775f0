package gltf

import (
	"bytes"
	"encoding/binary"
	"encoding/json"
	"fmt"

	"github.com/qmuntal/gltf"
)

const pointerExtension = "KHR_animation_pointer"

func (a *animator) pointer(path string, sampler int) {
	a.writer.uses(pointerExtension)
	a.out.Channels = append(a.out.Channels, &gltf.AnimationChannel{Sampler: sampler,
		Target: gltf.AnimationChannelTarget{
			Extensions: gltf.Extensions{pointerExtension: map[string]any{"pointer": path}},
		}})
}

// pointed gives the channels that point by the extension the path that it asks for; the
// library does not know it.
func pointed(glb []byte) ([]byte, error) {
	const header, head = 12, 8
	length := int(binary.LittleEndian.Uint32(glb[header:]))
	decoder := json.NewDecoder(bytes.NewReader(glb[header+head : header+head+length]))
	decoder.UseNumber()
	var doc map[string]any
	if err := decoder.Decode(&doc); err != nil {
		return nil, fmt.Errorf("completing the GLB: %w", err)
	}
	animations, _ := doc["animations"].([]any)
	for _, animation := range animations {
		for _, c := range animation.(map[string]any)["channels"].([]any) {
			target := c.(map[string]any)["target"].(map[string]any)
			if target["extensions"] != nil {
				target["path"] = "pointer"
			}
		}
	}
	text, err := json.Marshal(doc)
	if err != nil {
		return nil, fmt.Errorf("completing the GLB: %w", err)
	}
	for len(text)%4 != 0 {
		text = append(text, ' ')
	}
	rest := glb[header+head+length:]
	out := make([]byte, 0, header+head+len(text)+len(rest))
	out = append(out, glb[:8]...)
	out = binary.LittleEndian.AppendUint32(out, uint32(header+head+len(text)+len(rest)))
	out = binary.LittleEndian.AppendUint32(out, uint32(len(text)))
	out = append(out, glb[header+4:header+head]...)
	return append(append(out, text...), rest...), nil
}
