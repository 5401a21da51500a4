use std::cell::RefCell;
use std::collections::HashMap;
use std::io;

pub(super) const PAGE: u64 = 4096;
/// No probe needs more of one device than this.
const MAX_PAGES: usize = 224;

/// Something that holds bytes: a device, an image, a slice.
pub trait Bytes {
    /// Size in bytes.
    fn size(&self) -> u64;

    /// Reads into the buffer from an offset; short only at the end.
    ///
    /// # Errors
    /// Whatever the device says.
    fn read_at(&self, offset: u64, buffer: &mut [u8]) -> io::Result<usize>;
}

impl Bytes for Vec<u8> {
    fn size(&self) -> u64 {
        self.len() as u64
    }

    fn read_at(&self, offset: u64, buffer: &mut [u8]) -> io::Result<usize> {
        let from = usize::try_from(offset).unwrap_or(usize::MAX).min(self.len());
        let len = buffer.len().min(self.len() - from);
        buffer[..len].copy_from_slice(&self[from..from + len]);
        Ok(len)
    }
}

/// A bounds-checked window on a device that reads each 4 KiB page once.
///
/// Reads outside the device, or beyond the total a probe may read, give
/// `None`; the first error of the device is kept for [`Reader::error`].
pub struct Reader<'a> {
    bytes: &'a dyn Bytes,
    pages: RefCell<HashMap<u64, Vec<u8>>>,
    error: RefCell<Option<io::Error>>,
}

impl<'a> Reader<'a> {
    /// A reader over a device.
    pub fn new(bytes: &'a dyn Bytes) -> Self {
        Reader { bytes, pages: RefCell::default(), error: RefCell::default() }
    }

    /// Another reader of the same device, with room of its own.
    pub fn anew(&self) -> Self {
        Reader::new(self.bytes)
    }

    /// Size of the device in bytes.
    pub fn size(&self) -> u64 {
        self.bytes.size()
    }

    /// How many bytes were read so far.
    pub fn bytes_read(&self) -> u64 {
        self.pages.borrow().len() as u64 * PAGE
    }

    /// Whether a read failed.
    pub fn failed(&self) -> bool {
        self.error.borrow().is_some()
    }

    /// The first error the device gave, if any.
    pub fn error(self) -> Option<io::Error> {
        self.error.into_inner()
    }

    /// `len` bytes from an offset, or `None` when they are not all there.
    pub fn at(&self, offset: u64, len: usize) -> Option<Block> {
        let end = offset.checked_add(len as u64)?;
        if end > self.size() {
            return None;
        }
        let mut out = Vec::with_capacity(len.min(1 << 16));
        let mut at = offset;
        while at < end {
            let page = at / PAGE;
            let from = usize::try_from(at % PAGE).ok()?;
            self.load(page)?;
            let pages = self.pages.borrow();
            let bytes = pages.get(&page)?.get(from..)?;
            let want = usize::try_from(end - at).ok()?.min(bytes.len());
            if want == 0 {
                return None;
            }
            out.extend_from_slice(&bytes[..want]);
            at += want as u64;
        }
        Some(Block(out))
    }

    fn load(&self, page: u64) -> Option<()> {
        let mut pages = self.pages.borrow_mut();
        if pages.contains_key(&page) {
            return Some(());
        }
        if pages.len() >= MAX_PAGES {
            return None;
        }
        let offset = page * PAGE;
        let len = usize::try_from((self.size() - offset).min(PAGE)).ok()?;
        let mut buffer = vec![0; len];
        match self.bytes.read_at(offset, &mut buffer) {
            Ok(n) => buffer.truncate(n),
            Err(e) => {
                self.error.borrow_mut().get_or_insert(e);
                return None;
            }
        }
        pages.insert(page, buffer);
        Some(())
    }
}

/// Bytes read from a device, with checked access to numbers in them.
pub struct Block(Vec<u8>);

impl From<&[u8]> for Block {
    fn from(bytes: &[u8]) -> Self {
        Block(bytes.to_vec())
    }
}

impl From<Vec<u8>> for Block {
    fn from(bytes: Vec<u8>) -> Self {
        Block(bytes)
    }
}

impl Block {
    /// The bytes from `offset`; `None` when they are not all there.
    pub fn bytes(&self, offset: usize, len: usize) -> Option<&[u8]> {
        self.0.get(offset..offset.checked_add(len)?)
    }

    /// Whether these bytes stand at the offset.
    pub fn has(&self, offset: usize, magic: &[u8]) -> bool {
        self.bytes(offset, magic.len()) == Some(magic)
    }

    /// All of it.
    pub fn all(&self) -> &[u8] {
        &self.0
    }

    fn array<const N: usize>(&self, offset: usize) -> Option<[u8; N]> {
        self.bytes(offset, N)?.try_into().ok()
    }

    /// One byte.
    pub fn u8(&self, offset: usize) -> Option<u8> {
        self.0.get(offset).copied()
    }

    /// A little-endian number of 2 bytes.
    pub fn u16le(&self, offset: usize) -> Option<u16> {
        self.array(offset).map(u16::from_le_bytes)
    }

    /// A big-endian number of 2 bytes.
    pub fn u16be(&self, offset: usize) -> Option<u16> {
        self.array(offset).map(u16::from_be_bytes)
    }

    /// A little-endian number of 4 bytes.
    pub fn u32le(&self, offset: usize) -> Option<u32> {
        self.array(offset).map(u32::from_le_bytes)
    }

    /// A big-endian number of 4 bytes.
    pub fn u32be(&self, offset: usize) -> Option<u32> {
        self.array(offset).map(u32::from_be_bytes)
    }

    /// A little-endian number of 8 bytes.
    pub fn u64le(&self, offset: usize) -> Option<u64> {
        self.array(offset).map(u64::from_le_bytes)
    }

    /// A big-endian number of 8 bytes.
    pub fn u64be(&self, offset: usize) -> Option<u64> {
        self.array(offset).map(u64::from_be_bytes)
    }

    /// A UUID in the usual spelling; `None` when it is all zeros.
    pub fn uuid(&self, offset: usize) -> Option<String> {
        let id = uuid::Uuid::from_bytes(self.array(offset)?);
        (!id.is_nil()).then(|| id.hyphenated().to_string())
    }

    /// The bytes up to the first NUL of a field.
    pub fn cstr(&self, offset: usize, len: usize) -> Option<&[u8]> {
        let field = self.bytes(offset, len)?;
        let end = field.iter().position(|&b| b == 0).unwrap_or(len);
        Some(&field[..end])
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn reads_only_what_is_there() {
        let data: Vec<u8> = (0..=255).cycle().take(9000).collect();
        let reader = Reader::new(&data);
        assert_eq!(reader.at(4094, 4).unwrap().all(), &data[4094..4098]);
        assert!(reader.at(8999, 1).is_some());
        assert!(reader.at(8999, 2).is_none());
        assert!(reader.at(u64::MAX, 2).is_none());
        assert_eq!(reader.bytes_read(), 3 * PAGE);
    }

    #[test]
    fn stops_at_its_limit() {
        let data = vec![0; 2 << 20];
        let reader = Reader::new(&data);
        assert!(reader.at(0, 1 << 20).is_none());
        assert!(reader.bytes_read() < 1 << 20);
    }

    struct Broken;
    impl Bytes for Broken {
        fn size(&self) -> u64 {
            1 << 20
        }
        fn read_at(&self, _: u64, _: &mut [u8]) -> io::Result<usize> {
            Err(io::Error::other("medium error"))
        }
    }

    #[test]
    fn keeps_the_first_error() {
        let reader = Reader::new(&Broken);
        assert!(reader.at(0, 1).is_none());
        assert_eq!(reader.error().unwrap().to_string(), "medium error");
    }
}
