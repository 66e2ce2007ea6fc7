import { writeWav, writeZip } from '../../core/index.ts';
import { sine } from './build.ts';

/**
 * A DAWproject file as another program might write it, by hand for the tests: facts of version 1.0 from
 * memory of the public specification. It has what this program does not know (a note lane,
 * an unknown element and attribute, a comment, a namespace-free extension, a third-party state) so that
 * survival can be checked.
 */
export const STATE = Uint8Array.from({ length: 300 }, (_, i) => (i * 37) & 255);
export const PROJECT = `<?xml version="1.0" encoding="UTF-8" standalone="yes"?>
<!-- written by hand -->
<Project version="1.0">
    <Application name="Hand-written" version="3.1"/>
    <Transport>
        <Tempo max="666" min="20" unit="bpm" value="96.000000" id="id0" name="Tempo"/>
        <TimeSignature denominator="4" numerator="3" id="id1"/>
    </Transport>
    <Structure>
        <Track contentType="tracks" loaded="true" id="folder1" name="Singers" color="#a2578e">
            <Channel audioChannels="2" destination="chM" role="submix" id="chF"><Volume max="2.0" min="0.0" unit="linear" value="0.891251" id="v9" name="Volume"/></Channel>
            <Track contentType="audio" loaded="true" id="lead" name="Lead &amp; first" color="#b0602c" comment="threshold first">
                <Channel audioChannels="1" destination="chF" role="regular" solo="false" id="chL" vendorHint="keep me">
                    <Devices>
                        <Equalizer deviceID="x" deviceName="EQ" deviceRole="audioFX" loaded="true" id="eq1" name="Tone">
                            <Parameters/><Enabled value="true" id="e1" name="On/Off"/>
                            <Band type="highPass" order="4"><Freq max="20000" min="20" unit="hertz" value="90.0" id="f1"/><Q value="0.71" unit="linear" id="q1"/><Enabled value="true" id="en1"/></Band>
                            <Band type="bell"><Freq unit="hertz" value="3000.0" id="f2"/><Gain unit="decibel" value="2.5" id="g2"/><Q value="1.2" unit="linear" id="q2"/><Enabled value="false" id="en2"/></Band>
                            <OutputGain unit="decibel" value="-1.0" id="og"/>
                        </Equalizer>
                        <Vst3Plugin deviceID="0123456789ABCDEF" deviceName="Tape Thing" deviceVendor="Somebody" deviceRole="audioFX" loaded="true" id="plug1" name="Tape Thing">
                            <Parameters><RealParameter max="1" min="0" unit="normalized" value="0.25" id="pp1" name="Wow" parameterID="48"/></Parameters>
                            <Enabled value="true" id="e2"/><State path="plugins/tape.vstpreset" external="false"/>
                        </Vst3Plugin>
                        <Compressor deviceID="y" deviceName="Comp" deviceRole="audioFX" loaded="true" id="cmp1" name="Squeeze">
                            <Enabled value="false" id="e3"/><Attack unit="seconds" value="0.008" id="a1"/><InputGain unit="decibel" value="3.0" id="ig"/><OutputGain unit="decibel" value="2.0" id="og2"/><Ratio unit="linear" value="4.0" id="r1"/><Release unit="seconds" value="0.12" id="rl"/><Threshold unit="decibel" value="-20.0" id="th"/>
                        </Compressor>
                        <Limiter deviceID="z" deviceName="Limit" deviceRole="audioFX" id="lim1" name="Stop"><Threshold unit="decibel" value="-1.0" id="lt"/></Limiter>
                    </Devices>
                    <Mute value="false" id="m1" name="Mute"/><Pan max="1.0" min="0.0" unit="normalized" value="0.4" id="p1" name="Pan"/>
                    <Sends><Send destination="chP" type="post" id="s1"><Volume max="1.0" min="0.0" unit="linear" value="0.25" id="sv1"/><Enable value="true" id="se1"/></Send></Sends>
                    <Volume max="2.0" min="0.0" unit="linear" value="0.5" id="v1" name="Volume"/>
                    <UnknownElement answer="42"><Inner>text stays</Inner></UnknownElement>
                </Channel>
            </Track>
            <Track contentType="notes" loaded="true" id="keys" name="Pump organ"><Channel audioChannels="2" destination="chF" role="regular" id="chK"><Volume unit="linear" value="1.0" id="v2"/></Channel></Track>
        </Track>
        <Track contentType="audio" loaded="true" id="plate" name="Plate"><Channel audioChannels="2" destination="chM" role="effect" id="chP"><Volume unit="decibel" value="-3.0" id="v3"/></Channel></Track>
        <Track contentType="audio notes" loaded="true" id="master" name="Master"><Channel audioChannels="2" role="master" id="chM"><Volume unit="linear" value="1.0" id="v4"/></Channel></Track>
    </Structure>
    <Arrangement id="arr">
        <Lanes timeUnit="beats" id="l0">
            <Lanes track="lead" id="l1"><Clips id="c0"><Clip time="4.0" duration="2.0" contentTimeUnit="beats" playStart="0.0" id="cl1"><Clips><Clip time="0.0" duration="2.0" contentTimeUnit="seconds" playStart="0.0"><Audio channels="1" duration="2.0" sampleRate="44100" id="au1"><File path="audio/lead.wav"/></Audio></Clip></Clips></Clip></Clips></Lanes>
            <Lanes track="keys" id="l2"><Clips id="c1"><Clip time="0.0" duration="4.0" playStart="0.0"><Notes id="n0"><Note time="0.0" duration="1.0" channel="0" key="62" vel="0.8" rel="0.5"/></Notes></Clip></Clips></Lanes>
        </Lanes>
    </Arrangement>
    <Scenes/>
</Project>
`;

const WAV = writeWav([sine(440, 0.4, 2, 44100)], 44100, 24);

export function handFile(xml = PROJECT, more: Record<string, Uint8Array> = {}): Uint8Array {
  const text = (s: string) => new TextEncoder().encode(s);
  return writeZip({
    'metadata.xml': text(
      '<?xml version="1.0" encoding="UTF-8"?><MetaData><Title>Lantern Room</Title><Artist>The Saltmarsh Lanterns</Artist></MetaData>',
    ),
    'project.xml': text(xml),
    'audio/lead.wav': WAV,
    'plugins/tape.vstpreset': STATE,
    'extra/notes.txt': text('left by another program'),
    ...more,
  });
}
