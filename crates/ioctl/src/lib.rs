//! Questions to the kernel that need an ioctl without a safe wrapper. Each
//! function is safe to call; all unsafe code of the program is here.

mod extents;
mod image;
mod layer;

pub use extents::shares_blocks;
pub use image::Image;
pub use layer::Layer;
