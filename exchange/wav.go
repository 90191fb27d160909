package exchange

import (
	"bufio"
	"encoding/binary"
	"fmt"
	"io"
	"math"

	"largo/core/unit"
)

// WAV files as RIFF/WAVE describes them (Multimedia Programming Interface and Data
// Specifications 1.0, 1991; from memory): PCM of 24 bits is written; PCM of 16, 24 and 32
// bits and floating point of 32 are read.

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

// ReadWAV reads a whole file.
func ReadWAV(r io.Reader) (WAV, error) {
	s, err := OpenWAV(r)
	if err != nil {
		return WAV{}, err
	}
	w := WAV{Rate: s.Rate, Channels: make([][]float64, s.Channels)}
	b := make([]float64, 4096*s.Channels)
	for all := 0; ; all += len(b) {
		if all > mostWAV/8 {
			return WAV{}, fmt.Errorf("the file is larger than %d MiB; send a shorter piece", mostWAV>>20)
		}
		n, err := s.Read(b)
		for i := range n {
			w.Channels[i%s.Channels] = append(w.Channels[i%s.Channels], b[i])
		}
		if err != nil || n == 0 {
			return w, err
		}
	}
}

// WAVReader reads a file of any length piece by piece.
type WAVReader struct {
	Rate, Channels int
	Frames         int64 // samples of a channel, as the file says

	in    *bufio.Reader
	left  int64 // bytes of samples to come
	width int   // bytes of a sample
	float bool
	raw   []byte
	first []float64 // of all channels, for First
}

// OpenWAV begins to read a file: PCM of 16, 24 or 32 bits or floating point of 32, one or
// two channels. Whatever else it is said in one sentence.
func OpenWAV(r io.Reader) (*WAVReader, error) {
	w := &WAVReader{in: bufio.NewReaderSize(r, 1<<16)}
	head := make([]byte, 12)
	if _, err := io.ReadFull(w.in, head); err != nil || string(head[:4]) != "RIFF" || string(head[8:]) != "WAVE" {
		return nil, fmt.Errorf("this is no WAV file")
	}
	known := false
	for {
		if _, err := io.ReadFull(w.in, head[:8]); err != nil {
			return nil, fmt.Errorf("the file lacks its format or its samples")
		}
		size := int64(binary.LittleEndian.Uint32(head[4:8]))
		switch part := string(head[:4]); {
		case part == "data" && known:
			w.left = size - size%int64(w.width*w.Channels)
			w.Frames = w.left / int64(w.width*w.Channels)
			return w, nil
		case part == "fmt " && size >= 16 && size < 1024:
			format := make([]byte, size+size%2)
			if _, err := io.ReadFull(w.in, format); err != nil {
				return nil, fmt.Errorf("the file ends in the middle of its part %q", part)
			}
			if err := w.format(format); err != nil {
				return nil, err
			}
			known = true
		default:
			if _, err := io.CopyN(io.Discard, w.in, size+size%2); err != nil {
				return nil, fmt.Errorf("the file ends in the middle of its part %q", part)
			}
		}
	}
}

// The codes of a sample's form; the last says that the true one stands further on.
const (
	wavFloat      = 3
	wavExtensible = 0xFFFE
)

func (w *WAVReader) format(b []byte) error {
	le := binary.LittleEndian
	code, bits := le.Uint16(b), int(le.Uint16(b[14:]))
	if code == wavExtensible && len(b) >= 26 {
		code = le.Uint16(b[24:])
	}
	w.Rate, w.Channels, w.width, w.float = int(le.Uint32(b[4:])), int(le.Uint16(b[2:])), bits/8, code == wavFloat
	switch {
	case !(code == wavPCM && (bits == 16 || bits == 24 || bits == 32) || code == wavFloat && bits == 32):
		return fmt.Errorf("the samples are not plain ones of 16, 24 or 32 bits; save the file as PCM")
	case w.Channels < 1 || w.Channels > 2:
		return fmt.Errorf("the file has %d channels; send one or two", w.Channels)
	case w.Rate < 8000 || w.Rate > 192000:
		return fmt.Errorf("%d samples a second cannot be right: 8,000 to 192,000", w.Rate)
	}
	return nil
}

// Read fills a buffer with the next samples, channel after channel, and tells how many
// there were; 0 at the end. A file that ends before it says is an error.
func (w *WAVReader) Read(into []float64) (int, error) {
	want := min(int64(len(into)-len(into)%w.Channels), w.left/int64(w.width))
	if want == 0 {
		return 0, nil
	}
	need := int(want) * w.width
	if len(w.raw) < need {
		w.raw = make([]byte, need)
	}
	raw := w.raw[:need]
	if _, err := io.ReadFull(w.in, raw); err != nil {
		return 0, fmt.Errorf("the file ends in the middle of its samples")
	}
	w.left -= int64(need)
	w.decode(raw, into)
	return int(want), nil
}

func (w *WAVReader) decode(raw []byte, into []float64) {
	le := binary.LittleEndian
	switch {
	case w.float:
		for i := range len(raw) / 4 {
			if v := float64(math.Float32frombits(le.Uint32(raw[4*i:]))); math.Abs(v) <= 64 { // no number is silence
				into[i] = v
			} else {
				into[i] = 0
			}
		}
	case w.width == 2:
		for i := range len(raw) / 2 {
			into[i] = float64(int16(le.Uint16(raw[2*i:]))) * (1.0 / (1<<15 - 1))
		}
	case w.width == 3:
		for i := range len(raw) / 3 {
			v := int32(uint32(raw[3*i])<<8|uint32(raw[3*i+1])<<16|uint32(raw[3*i+2])<<24) >> 8
			into[i] = float64(v) * (1.0 / fullScale24)
		}
	default:
		for i := range len(raw) / 4 {
			into[i] = float64(int32(le.Uint32(raw[4*i:]))) * (1.0 / (1<<31 - 1))
		}
	}
}

// First fills a buffer with the next samples of the first channel, scaled.
func (w *WAVReader) First(into []float64, scale float64) (int, error) {
	if need := len(into) * w.Channels; len(w.first) < need {
		w.first = make([]float64, need)
	}
	n, err := w.Read(w.first[:len(into)*w.Channels])
	for i := range n / w.Channels {
		into[i] = scale * w.first[i*w.Channels]
	}
	return n / w.Channels, err
}

// Heard is what a recording tells of its programme: of its first channel, of full scale 1.
type Heard struct {
	Rate    int
	Seconds float64
	RMS     float64 // over all of it
	Peak    float64
}

// Crest is the peak over the average.
func (h Heard) Crest() unit.Decibel { return unit.OfVolts(h.Peak / h.RMS) }

// leastHeard is the average under which a recording is taken for silence, of full scale:
// −80 dB.
const leastHeard = 1e-4

// HearWAV listens to a recording of any length to its end, and says in one sentence what it
// cannot take: what is no WAV, is cut off, or is silent.
func HearWAV(r io.Reader) (Heard, error) {
	w, err := OpenWAV(r)
	if err != nil {
		return Heard{}, err
	}
	h, sum, n := Heard{Rate: w.Rate}, 0.0, 0
	buffer := make([]float64, 1<<15)
	for {
		got, err := w.First(buffer, 1)
		if err != nil {
			return Heard{}, err
		}
		if got == 0 {
			break
		}
		for _, v := range buffer[:got] {
			sum += v * v
			h.Peak = max(h.Peak, math.Abs(v))
		}
		n += got
	}
	h.Seconds = float64(n) / float64(w.Rate)
	if h.RMS = math.Sqrt(sum / float64(max(n, 1))); h.RMS < leastHeard {
		return Heard{}, fmt.Errorf("the recording is silent")
	}
	return h, nil
}
