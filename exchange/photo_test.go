package exchange_test

import (
	"bytes"
	"encoding/binary"
	"hash/crc32"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
	"strings"
	"testing"

	"largo/exchange"
)

// sideways is a JPEG of 400 by 200, red on its left, that says it was taken with the camera
// turned: orientation 6 of EXIF 2.3, top of the picture on the right, so red belongs on top.
func sideways(t *testing.T) []byte {
	t.Helper()
	m := image.NewRGBA(image.Rect(0, 0, 400, 200))
	for y := range 200 {
		for x := range 400 {
			m.Set(x, y, color.RGBA{R: uint8(255 * ((399 - x) / 200)), B: 40, A: 255})
		}
	}
	var b bytes.Buffer
	if err := jpeg.Encode(&b, m, nil); err != nil {
		t.Fatal(err)
	}
	exif := append([]byte("Exif\x00\x00MM\x00*\x00\x00\x00\x08\x00\x01\x01\x12\x00\x03\x00\x00\x00\x01\x00\x06\x00\x00"),
		0, 0, 0, 0)
	exif = append(exif, "Canal Street 4, 52.1 N"...) // where it was taken
	app1 := binary.BigEndian.AppendUint16([]byte{0xff, 0xe1}, uint16(len(exif)+2))
	return append(append(append([]byte{0xff, 0xd8}, app1...), exif...), b.Bytes()[2:]...)
}

func TestPhotosAreTurnedAndToldNothingOf(t *testing.T) {
	b, err := exchange.Photo(bytes.NewReader(sideways(t)))
	if err != nil {
		t.Fatal(err)
	}
	m, form, err := image.Decode(bytes.NewReader(b))
	if err != nil || form != "jpeg" || m.Bounds().Dx() != 200 || m.Bounds().Dy() != 400 {
		t.Fatalf("%s %v %v", form, m.Bounds(), err)
	}
	top, _, _, _ := m.At(100, 50).RGBA()
	foot, _, _, _ := m.At(100, 350).RGBA()
	if top < 0xf000 || foot > 0x1000 {
		t.Errorf("red is %x above and %x below", top, foot)
	}
	if bytes.Contains(b, []byte("Canal Street")) {
		t.Error("it still says where it was taken")
	}
}

func TestPhotosAreKeptSmall(t *testing.T) {
	var b bytes.Buffer
	if err := png.Encode(&b, image.NewGray(image.Rect(0, 0, 6000, 3000))); err != nil {
		t.Fatal(err)
	}
	small, err := exchange.Photo(&b)
	if err != nil {
		t.Fatal(err)
	}
	head, _, _ := image.DecodeConfig(bytes.NewReader(small))
	if head.Width != 1280 || head.Height != 640 {
		t.Errorf("%d by %d", head.Width, head.Height)
	}
}

func TestWhatIsNoPhoto(t *testing.T) {
	whole := sideways(t)
	for name, c := range map[string]struct {
		file []byte
		says string
	}{
		"text":      {[]byte("volts 24"), "no photograph"},
		"nothing":   {nil, "no photograph"},
		"half":      {whole[:len(whole)/2], "cut off"},
		"too large": {make([]byte, exchange.MostPhotoBytes+1), "larger than"},
		"huge":      {tall(t, 30_000), "30000 by 30000"},
	} {
		if _, err := exchange.Photo(bytes.NewReader(c.file)); err == nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: %v", name, err)
		}
	}
}

// tall is the head of a PNG that claims to have so many pixels each way: a bomb.
func tall(t *testing.T, side uint32) []byte {
	t.Helper()
	var b bytes.Buffer
	if err := png.Encode(&b, image.NewGray(image.Rect(0, 0, 1, 1))); err != nil {
		t.Fatal(err)
	}
	f := b.Bytes()
	binary.BigEndian.PutUint32(f[16:], side)
	binary.BigEndian.PutUint32(f[20:], side)
	binary.BigEndian.PutUint32(f[29:], crc32.ChecksumIEEE(f[12:29]))
	return f
}
