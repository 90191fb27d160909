package exchange

import (
	"bytes"
	"fmt"
	"image"
	_ "image/png" // screenshots of meters
	"io"
	"sync"

	"github.com/disintegration/imaging"

	"largo/core/fault"
)

// Bounds of a photograph as it comes from a phone.
const (
	MostPhotoBytes  = 24 << 20
	mostPhotoPixels = 40_000_000
)

// Photographs are kept as JPEG, upright, with neither place nor maker of the phone in them.
const (
	photoSide    = 1280 // pixels of the longer side, at most
	photoQuality = 78
)

// decoding lets one photograph be decoded at a time: one of 40 megapixels takes 160 MB.
var decoding sync.Mutex

// Photo makes a photograph small: JPEG or PNG in, JPEG out, turned as its camera was held.
// What is none is a fault that says so.
func Photo(r io.Reader) ([]byte, error) {
	b, err := io.ReadAll(io.LimitReader(r, MostPhotoBytes+1))
	if err != nil {
		return nil, err
	}
	if len(b) > MostPhotoBytes {
		return nil, fault.At("file", "The photograph is larger than %d MB. Send a smaller one.", MostPhotoBytes>>20)
	}
	head, _, err := image.DecodeConfig(bytes.NewReader(b))
	switch {
	case err != nil:
		return nil, fault.At("file", "This is no photograph that can be read: a JPEG or a PNG is.")
	case head.Width*head.Height > mostPhotoPixels || head.Width < 1 || head.Height < 1:
		return nil, fault.At("file", "A photograph of %d by %d pixels is not taken: 40 megapixels are the most.", head.Width,
			head.Height)
	}
	decoding.Lock()
	defer decoding.Unlock()
	picture, err := imaging.Decode(bytes.NewReader(b), imaging.AutoOrientation(true))
	if err != nil {
		return nil, fault.At("file", "The photograph is cut off or damaged.")
	}
	var out bytes.Buffer
	if err := imaging.Encode(&out, imaging.Fit(picture, photoSide, photoSide, imaging.Box), imaging.JPEG,
		imaging.JPEGQuality(photoQuality)); err != nil {
		return nil, fmt.Errorf("a photograph made small: %w", err)
	}
	return out.Bytes(), nil
}
