#version 330 core
uniform mat4 seen;
in vec3 point;
in vec4 paint;
out vec4 wash;
void main() {
    wash = paint;
    gl_Position = seen * vec4(point, 1.0);
}
