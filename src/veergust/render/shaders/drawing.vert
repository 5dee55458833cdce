#version 330 core
// A cell of a sheet, standing upright at its place.
uniform mat4 seen;
in vec3 point;
in vec2 texel;
out vec2 at;
void main() {
    at = texel;
    gl_Position = seen * vec4(point, 1.0);
}
