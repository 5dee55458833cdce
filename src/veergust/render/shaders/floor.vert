#version 330 core
uniform mat4 seen;
in vec3 point;
out vec3 world;
void main() {
    world = point;
    gl_Position = seen * vec4(point, 1.0);
}
