package main

import (
	"fmt"
	"os"

	"github.com/spf13/cobra"

	"yugen/core/spectra"
	"yugen/formats"
	"yugen/formats/andi"
	"yugen/formats/jcamp"
	"yugen/formats/mzml"
	"yugen/formats/text"
)

func convertCommand() *cobra.Command {
	var s selection
	var to, out string
	c := &cobra.Command{
		Use: "convert FILE", Short: "Write an open file in another open format", Args: cobra.ExactArgs(1),
		RunE: func(_ *cobra.Command, files []string) error {
			f, err := s.open(files[0])
			if err != nil {
				return err
			}
			if s.any() {
				signal, err := s.of(f)
				if err != nil {
					return fmt.Errorf("%s: %w", files[0], err)
				}
				f = formats.File{Header: f.Header, Channels: []formats.Channel{signal}}
			}
			data, err := encode(f, to)
			if err != nil {
				return fmt.Errorf("%s: %w", files[0], err)
			}
			if out == "" {
				return fmt.Errorf("say where to with --out")
			}
			return os.WriteFile(out, data, 0o644)
		},
	}
	s.flags(c)
	c.Flags().StringVar(&to, "to", "", "mzml, jcamp, andi or csv")
	c.Flags().StringVar(&out, "out", "", "the file to write")
	return c
}

// encode writes a file in a format, or says what that format cannot hold.
func encode(f formats.File, to string) ([]byte, error) {
	switch to {
	case "mzml":
		return mzml.Write(f)
	case "jcamp":
		return jcamp.Write(f), nil
	case "csv":
		return text.Write(f)
	case "andi":
		return encodeANDI(f)
	}
	return nil, fmt.Errorf("%q is no format that is written; mzml, jcamp, andi and csv are", to)
}

// encodeANDI writes channels, or the one run of mass scans that a file of that format holds.
func encodeANDI(f formats.File) ([]byte, error) {
	if len(f.Spectra) == 1 && f.Spectra[0].Kind == spectra.Mass {
		return andi.WriteSpectra(f.Spectra[0], f.Header)
	}
	if len(f.Spectra) > 0 {
		return nil, fmt.Errorf("ANDI holds one run of mass scans; this file has %d runs of spectra. mzml holds all", len(f.Spectra))
	}
	return andi.Write(f.Channels, f.Header, f.Peaks)
}
