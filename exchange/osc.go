package exchange

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"math"
	"strings"
)

// OSCMessage is a message of Open Sound Control 1.0 (specification of 26 March 2002): an
// address and its arguments, each an int32, a float32, a string or nil.
type OSCMessage struct {
	Address string
	Args    []any
}

const mostOSC = 1024 // bytes of a message that is read

// MarshalOSC writes a message: strings end in a zero and are filled to four bytes, numbers
// are big-endian.
func MarshalOSC(m OSCMessage) ([]byte, error) {
	if !strings.HasPrefix(m.Address, "/") || strings.ContainsRune(m.Address, 0) {
		return nil, fmt.Errorf("%.40q is no address of OSC: it begins with /", m.Address)
	}
	tags, args := ",", []byte{}
	for _, a := range m.Args {
		switch v := a.(type) {
		case int32:
			tags, args = tags+"i", binary.BigEndian.AppendUint32(args, uint32(v))
		case float32:
			tags, args = tags+"f", binary.BigEndian.AppendUint32(args, math.Float32bits(v))
		case string:
			tags, args = tags+"s", appendOSCString(args, v)
		case nil:
			tags += "N"
		default:
			return nil, fmt.Errorf("OSC has no argument of sort %T", a)
		}
	}
	return append(appendOSCString(appendOSCString(nil, m.Address), tags), args...), nil
}

func appendOSCString(b []byte, s string) []byte {
	b = append(b, s...)
	return append(b, make([]byte, 4-len(s)%4)...)
}

// UnmarshalOSC reads a message; what is none, or a bundle, is an error.
func UnmarshalOSC(b []byte) (m OSCMessage, err error) {
	if len(b) > mostOSC || len(b)%4 != 0 {
		return m, fmt.Errorf("a message of OSC has a multiple of four bytes, at most %d; this one has %d", mostOSC, len(b))
	}
	if m.Address, b, err = oscString(b); err != nil {
		return m, err
	}
	if !strings.HasPrefix(m.Address, "/") {
		return m, fmt.Errorf("%.40q is no address of OSC", m.Address)
	}
	tags, b, err := oscString(b)
	if err != nil {
		return m, err
	}
	if !strings.HasPrefix(tags, ",") {
		return m, fmt.Errorf("%.40q are no type tags of OSC", tags)
	}
	for _, tag := range tags[1:] {
		switch tag {
		case 'i', 'f':
			if len(b) < 4 {
				return m, fmt.Errorf("the message ends within an argument")
			}
			bits := binary.BigEndian.Uint32(b)
			if b = b[4:]; tag == 'i' {
				m.Args = append(m.Args, int32(bits))
			} else {
				m.Args = append(m.Args, math.Float32frombits(bits))
			}
		case 's':
			var s string
			if s, b, err = oscString(b); err != nil {
				return m, err
			}
			m.Args = append(m.Args, s)
		case 'N':
			m.Args = append(m.Args, nil)
		default:
			return m, fmt.Errorf("an argument of type %q is not read", tag)
		}
	}
	if len(b) > 0 {
		return m, fmt.Errorf("%d bytes follow the last argument", len(b))
	}
	return m, nil
}

func oscString(b []byte) (s string, rest []byte, err error) {
	end := bytes.IndexByte(b, 0)
	if end < 0 {
		return "", nil, fmt.Errorf("a string of the message has no end")
	}
	next := end + 4 - end%4
	if next > len(b) {
		return "", nil, fmt.Errorf("a string of the message is not filled to four bytes")
	}
	return string(b[:end]), b[next:], nil
}
