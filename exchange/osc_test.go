package exchange_test

import (
	"bytes"
	"reflect"
	"strings"
	"testing"

	"largo/exchange"
)

// The examples of the OSC 1.0 specification, section "OSC Message Examples".
func TestOSCOfTheSpecification(t *testing.T) {
	for _, c := range []struct {
		m exchange.OSCMessage
		b []byte
	}{
		{exchange.OSCMessage{Address: "/oscillator/4/frequency", Args: []any{float32(440)}},
			[]byte("/oscillator/4/frequency\x00,f\x00\x00\x43\xdc\x00\x00")},
		{exchange.OSCMessage{Address: "/foo", Args: []any{int32(1000), int32(-1), "hello", float32(1.234), float32(5.678)}},
			[]byte("/foo\x00\x00\x00\x00,iisff\x00\x00\x00\x00\x03\xe8\xff\xff\xff\xffhello\x00\x00\x00\x3f\x9d\xf3\xb6" +
				"\x40\xb5\xb2\x2d")},
	} {
		b, err := exchange.MarshalOSC(c.m)
		if err != nil || !bytes.Equal(b, c.b) {
			t.Errorf("%q, want %q, %v", b, c.b, err)
		}
		if m, err := exchange.UnmarshalOSC(c.b); err != nil || !reflect.DeepEqual(m, c.m) {
			t.Errorf("%+v, %v", m, err)
		}
	}
}

func TestOSCThatIsNone(t *testing.T) {
	for _, b := range []string{"", "foo\x00", "/foo", "/foo\x00\x00\x00\x00", "/foo\x00\x00\x00\x00,f\x00\x00",
		"/foo\x00\x00\x00\x00,x\x00\x00", "#bundle\x00", "/a\x00\x00,\x00\x00\x00\x00\x00\x00\x00", strings.Repeat("/",
			2000)} {
		if m, err := exchange.UnmarshalOSC([]byte(b)); err == nil {
			t.Errorf("%q reads as %+v", b, m)
		}
	}
	if _, err := exchange.MarshalOSC(exchange.OSCMessage{Address: "no"}); err == nil {
		t.Error("an address without / is written")
	}
}

func TestProbesAreOnThisMachine(t *testing.T) {
	for address, ok := range map[string]bool{"osc://127.0.0.1:9030": true, "http://127.0.0.1:9031/probe": true,
		"http://[::1]:9031": true, "http://10.0.0.7:80": false, "http://localhost:9031": false, "ftp://127.0.0.1:2": false,
		"127.0.0.1:9": false, "osc://127.0.0.1": false, "http://127.0.0.1:0": false} {
		if _, err := exchange.ProbeAt(address); (err == nil) != ok {
			t.Errorf("%s: %v", address, err)
		}
	}
}

func FuzzOSC(f *testing.F) {
	f.Add([]byte("/foo\x00\x00\x00\x00,iisffN\x00"))
	f.Fuzz(func(t *testing.T, b []byte) {
		m, err := exchange.UnmarshalOSC(b)
		if err != nil {
			return
		}
		again, err := exchange.MarshalOSC(m)
		if err != nil {
			t.Fatalf("%q reads, and is not written: %v", b, err)
		}
		if _, err := exchange.UnmarshalOSC(again); err != nil {
			t.Errorf("%q is written as %q: %v", b, again, err)
		}
	})
}
