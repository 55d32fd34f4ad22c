/** NETCONF as text (RFC 6241, RFC 6242): framing, messages and errors, for whoever speaks it. */
export { FrameReader, FramingError, framed, type Framing } from './framing.ts'
export {
  BASE_1_0,
  BASE_1_1,
  BASE_NS,
  framingOf,
  readHello,
  readReply,
  selected,
  writeHello,
  writeReply,
  writeRpc,
  type Hello,
  type Reply,
  type RpcError,
} from './messages.ts'
export { childOf, readElement, textOf, writeElement, type XmlContent, type XmlElement, type XmlPart } from './xml.ts'
