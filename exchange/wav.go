package exchange

import (
	"bufio"
	"encoding/binary"
	"fmt"
	"io"
	"math"
)

// WAV files as RIFF/WAVE describes them (Multimedia Programming Interface and Data
// Specifications 1.0, 1991; from memory): PCM of 24 bits is written, of 16 and 24 read.

const (
	wavHeader = 44
	wavPCM    = 1
	// fullScale24 is the largest sample of 24 bits.
	fullScale24 = 1<<23 - 1
	// mostWAV bounds what is read, bytes: a quarter of an hour of stereo at 48 kHz.
	mostWAV = 256 << 20
)

// WriteWAV writes one channel, full scale from −1 to 1; what lies beyond is refused.
func WriteWAV(w io.Writer, rate int, x []float64) error {
	size := uint32(3 * len(x))
	out := bufio.NewWriter(w)
	header := make([]byte, 0, wavHeader)
	le := binary.LittleEndian
	header = append(header, "RIFF"...)
	header = le.AppendUint32(header, wavHeader-8+size+size%2)
	header = append(header, "WAVEfmt "...)
	header = le.AppendUint32(header, 16)
	header = le.AppendUint16(header, wavPCM)
	header = le.AppendUint16(header, 1)
	header = le.AppendUint32(header, uint32(rate))
	header = le.AppendUint32(header, uint32(3*rate))
	header = le.AppendUint16(header, 3)
	header = le.AppendUint16(header, 24)
	header = append(header, "data"...)
	header = le.AppendUint32(header, size)
	if _, err := out.Write(header); err != nil {
		return err
	}
	for i, v := range x {
		if !(math.Abs(v) <= 1+1e-9) {
			return fmt.Errorf("sample %d lies at %g, beyond full scale", i, v)
		}
		n := int32(math.Round(max(-1, min(1, v)) * fullScale24))
		if _, err := out.Write([]byte{byte(n), byte(n >> 8), byte(n >> 16)}); err != nil {
			return err
		}
	}
	if size%2 == 1 {
		if err := out.WriteByte(0); err != nil {
			return err
		}
	}
	return out.Flush()
}

// WAV is what a file holds, channel by channel, full scale from −1 to 1.
type WAV struct {
	Rate     int
	Channels [][]float64
}

// ReadWAV reads PCM of 16 or 24 bits, one channel or two. Whatever else is said in one
// sentence.
func ReadWAV(r io.Reader) (WAV, error) {
	b, err := io.ReadAll(io.LimitReader(r, mostWAV+1))
	switch {
	case err != nil:
		return WAV{}, err
	case len(b) > mostWAV:
		return WAV{}, fmt.Errorf("the file is larger than %d MiB; send a shorter piece", mostWAV>>20)
	case len(b) < 12 || string(b[:4]) != "RIFF" || string(b[8:12]) != "WAVE":
		return WAV{}, fmt.Errorf("this is no WAV file")
	}
	var format, data []byte
	for rest := b[12:]; len(rest) >= 8; {
		size := binary.LittleEndian.Uint32(rest[4:8])
		body := rest[8:]
		if uint64(size) > uint64(len(body)) {
			return WAV{}, fmt.Errorf("the file ends in the middle of its part %q", rest[:4])
		}
		switch string(rest[:4]) {
		case "fmt ":
			format = body[:size]
		case "data":
			data = body[:size]
		}
		rest = body[min(uint64(len(body)), uint64(size)+uint64(size%2)):]
	}
	return decodeWAV(format, data)
}

func decodeWAV(format, data []byte) (WAV, error) {
	if len(format) < 16 || data == nil {
		return WAV{}, fmt.Errorf("the file lacks its format or its samples")
	}
	le := binary.LittleEndian
	code, channels, bits := le.Uint16(format), int(le.Uint16(format[2:])), int(le.Uint16(format[14:]))
	w := WAV{Rate: int(le.Uint32(format[4:]))}
	switch {
	case code != wavPCM || bits != 16 && bits != 24:
		return WAV{}, fmt.Errorf("the samples are not plain ones of 16 or 24 bits; save the file as PCM")
	case channels < 1 || channels > 2:
		return WAV{}, fmt.Errorf("the file has %d channels; send one or two", channels)
	case w.Rate < 8000 || w.Rate > 192000:
		return WAV{}, fmt.Errorf("%d samples a second cannot be right: 8,000 to 192,000", w.Rate)
	}
	width := bits / 8
	n := len(data) / (width * channels)
	w.Channels = make([][]float64, channels)
	for c := range channels {
		w.Channels[c] = make([]float64, n)
		for i := range n {
			at := data[(i*channels+c)*width:]
			if width == 2 {
				w.Channels[c][i] = float64(int16(le.Uint16(at))) / (1<<15 - 1)
			} else {
				v := int32(uint32(at[0])<<8|uint32(at[1])<<16|uint32(at[2])<<24) >> 8
				w.Channels[c][i] = float64(v) / fullScale24
			}
		}
	}
	return w, nil
}
